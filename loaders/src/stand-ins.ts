import { getConsoleFunction, LoadingManager, setConsoleFunction, Texture, TextureLoader } from 'three'

/** Images a loader asked for while it parsed: by what it called them. */
export interface WantedImages {
  readonly blobs: Map<string, Blob>
  readonly manager: LoadingManager
}

/** The name under which a texture's image was asked for. */
export const sourceOf = (texture: Texture): string => String(texture.userData.source ?? '')

/**
 * Runs a parser of the 3D library where there is no window: in a worker, on the server, on the command
 * line. Images are not fetched but noted, and what the parser needs of a browser stands in while it runs.
 */
export function withStandIns<T>(
  parse: (wanted: WantedImages) => T,
  needs: Readonly<Record<string, unknown>> = {},
): { value: T; wanted: WantedImages } {
  const manager = new LoadingManager()
  const blobs = new Map<string, Blob>()
  const noting = {
    load(source: string): Texture {
      const texture = new Texture()
      texture.userData.source = source
      return texture
    },
    setPath(): unknown {
      return noting
    },
    path: '',
  }
  manager.addHandler(/[^]*/, noting as never)
  const wanted = { blobs, manager }
  const host = globalThis as unknown as Record<string, unknown>
  const set: string[] = []
  for (const [name, value] of Object.entries({ window: { innerWidth: 1, innerHeight: 1 }, ...needs })) {
    if (host[name] !== undefined) continue
    host[name] = value
    set.push(name)
  }
  const createUrl = URL.createObjectURL
  URL.createObjectURL = (blob: Blob): string => {
    const name = `embedded:${blobs.size}`
    blobs.set(name, blob)
    return name
  }
  // loaders talk to the console about things that end up in `dropped`
  const quiet = (): void => undefined
  const before = getConsoleFunction()
  const { debug, warn, log, error } = console
  setConsoleFunction(quiet)
  Object.assign(console, { debug: quiet, warn: quiet, log: quiet, error: quiet })
  // some loaders ask for pictures without the manager's help
  const { load } = TextureLoader.prototype
  TextureLoader.prototype.load = function (this: TextureLoader, source: string) {
    return noting.load(source)
  } as typeof load
  try {
    return { value: parse(wanted), wanted }
  } finally {
    setConsoleFunction(before)
    Object.assign(console, { debug, warn, log, error })
    TextureLoader.prototype.load = load
    URL.createObjectURL = createUrl
    for (const name of set) delete host[name]
  }
}
