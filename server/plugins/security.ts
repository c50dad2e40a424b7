import { createHash } from 'node:crypto'

/**
 * A strict Content-Security-Policy: own files only. The few inline scripts the framework writes into
 * the page are allowed by their hashes, so no other inline script can run.
 */
export default defineNitroPlugin(nitro => {
  nitro.hooks.hook('render:response', (response, { event }) => {
    const body = typeof response.body === 'string' ? response.body : ''
    const hashes = new Set<string>()
    for (const match of body.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g)) {
      hashes.add(
        `'sha256-${createHash('sha256')
          .update(match[1] ?? '')
          .digest('base64')}'`,
      )
    }
    const policy = [
      "default-src 'none'",
      `script-src 'self' ${[...hashes].join(' ')}`.trim(),
      "style-src 'self'",
      "font-src 'self'",
      "img-src 'self' blob: data:",
      "connect-src 'self' blob:",
      "worker-src 'self'",
      "media-src 'self' blob:",
      "base-uri 'none'",
      "form-action 'none'",
      "frame-ancestors 'none'",
    ].join('; ')
    setResponseHeaders(event, {
      'content-security-policy': policy,
      'x-content-type-options': 'nosniff',
      'referrer-policy': 'no-referrer',
      'cross-origin-opener-policy': 'same-origin',
      'cross-origin-resource-policy': 'same-origin',
    })
  })
})
