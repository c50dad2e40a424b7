import { createHash } from 'node:crypto'

const hashOf = (text: string): string => `'sha256-${createHash('sha256').update(text).digest('base64')}'`

/** The only inline styles: what the splitter writes to show which way an edge goes, before it says so and after. */
const CURSORS = ['', ...['ew', 'e', 'w', 'ns', 'n', 's', 'ne', 'nw', 'se', 'sw'].map(way => `*{cursor: ${way}-resize!important;}`), '*{cursor: move!important;}'] // prettier-ignore
const STYLES = CURSORS.map(hashOf).join(' ')

/** What a page or a worker of ours may do: use own files, and nothing else. */
const policy = (scripts: string): string =>
  [
    "default-src 'none'",
    `script-src 'self' ${scripts}`.trim(),
    `style-src 'self' ${STYLES}`,
    "font-src 'self'",
    "img-src 'self' blob: data:",
    "connect-src 'self' blob:",
    "worker-src 'self'",
    "manifest-src 'self'",
    "media-src 'self' blob:",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
  ].join('; ')

/** On every answer, whatever it is. */
const HEADERS = {
  // workers may run the small compiled programs that read files and pose bodies; pages may not
  'content-security-policy': policy("'wasm-unsafe-eval'"),
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'permissions-policy': 'camera=(), microphone=(), geolocation=(), payment=(), usb=()',
} as const

/**
 * A strict Content-Security-Policy: own files only, for the page and for its workers. The few inline scripts the framework
 * writes into the page are allowed by their hashes, so no other inline script can run.
 */
export default defineNitroPlugin(nitro => {
  // on this machine alone unless somebody says otherwise; shells set HOST to the machine's name
  process.env.NITRO_HOST ??= process.env.CHIRAXIS_HOST ?? '127.0.0.1'
  nitro.hooks.hook('request', event => {
    setResponseHeaders(event, HEADERS)
  })
  nitro.hooks.hook('render:response', (response, { event }) => {
    const body = typeof response.body === 'string' ? response.body : ''
    const hashes = new Set<string>()
    for (const match of body.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g)) {
      hashes.add(hashOf(match[1] ?? ''))
    }
    // whose framework it is nobody needs to know
    delete response.headers?.['x-powered-by']
    setResponseHeader(event, 'content-security-policy', policy([...hashes].join(' ')))
  })
})
