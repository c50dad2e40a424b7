import { createReadStream, existsSync, statSync } from 'node:fs'
import { Server } from 'node:http'
import { basename, join } from 'node:path'

// Imported before the server's own program: those who carry the mark of the light demo get its files in place of the full ones.
// The browser could be told to swap them too, but then it keeps neither files nor the code it has compiled.
const LIGHT = '.demo-light'
const own = Server.prototype.emit

Server.prototype.emit = function (event, request, response, ...more) {
  if (event === 'request' && request.url?.startsWith('/demo/') && /\bdemo=light\b/.test(request.headers.cookie ?? '')) {
    const file = join(LIGHT, basename(request.url.split('?')[0]))
    if (existsSync(file)) {
      response.writeHead(200, { 'content-length': statSync(file).size, 'cache-control': 'no-store' })
      createReadStream(file).pipe(response)
      return true
    }
  }
  return own.call(this, event, request, response, ...more)
}
