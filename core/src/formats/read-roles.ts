import { recogniseRoles, withRoles, type ReadingChoice, type RoleReading, type Skeleton } from '../skeleton'
import { joinedJoints } from '../skin'
import type { Received } from './received'

/** How the skeleton that came in a file is read, by its joints and the skin that follows them. */
export const readReceived = ({ skeleton, skin }: Received, choice: ReadingChoice = {}): RoleReading | undefined =>
  skeleton && recogniseRoles(skeleton, { ...choice, carries: skin && joinedJoints(skin, skeleton.names.length) })

/** A skeleton with its roles told, where all a body needs were read. */
export const asRead = (skeleton: Skeleton, { missing, joints }: RoleReading): Skeleton =>
  missing.length === 0 ? withRoles(skeleton, joints) : skeleton
