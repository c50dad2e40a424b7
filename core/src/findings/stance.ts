import { type Finding, type FindingContext, rounded } from './finding'

/**
 * A finding about how a body came to stand. Straightening mends these by itself, so in a figure they are notes
 * of what was done; a file looked at as it came still has them to be mended.
 */
export function stance(
  context: FindingContext,
  rule: string,
  value: number,
  unit: string,
  where: string,
  stands: string,
  done: string,
): Finding {
  return {
    rule,
    value: rounded(value, 2),
    unit,
    where,
    severity: context.asReceived ? 'warning' : 'note',
    message: context.asReceived ? stands : `${stands} ${done}`,
    mendable: context.asReceived === true,
    ...(context.asReceived && { remedy: done }),
  }
}
