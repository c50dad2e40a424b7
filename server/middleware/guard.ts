/** Names by which this server may be called besides its loopback ones: `CHIRAXIS_HOSTS=rig.studio.lan,other`. */
const OTHERS = new Set((process.env.CHIRAXIS_HOSTS ?? '').split(',').map(h => h.trim().toLowerCase()).filter(Boolean)) // prettier-ignore
const OWN = new Set(['localhost', '127.0.0.1', '[::1]'])

const nameOf = (host: string): string => host.toLowerCase().replace(/:\d+$/, '')

/**
 * Keeps other pages from using this server: it answers only under its own names, and asks from another origin are
 * refused. A page that was made to look like this one by name service is told apart by the name it calls.
 */
export default defineEventHandler(event => {
  const host = getRequestHeader(event, 'host') ?? ''
  if (!OWN.has(nameOf(host)) && !OTHERS.has(nameOf(host)))
    return refuse(event, 421, 'bad-input', 'This server does not answer under that name.')
  const origin = getRequestHeader(event, 'origin')
  const site = getRequestHeader(event, 'sec-fetch-site')
  const foreign = origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`
  const asks = event.method !== 'GET' && event.method !== 'HEAD'
  const elsewhere = asks && site !== undefined && site !== 'same-origin' && site !== 'none'
  if (event.path.startsWith('/api/') && (foreign || elsewhere))
    return refuse(event, 403, 'bad-input', 'Only the page of this server may ask it for work.')
})
