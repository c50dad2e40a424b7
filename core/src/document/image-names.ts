/**
 * Names for image files beside a file: after that file and the image, with the ending of its kind, no two alike whatever the case.
 * @param stem what the file is called, without its ending
 */
export function imageNames(stem: string): (name: string, mime: string) => string {
  const taken = new Set<string>()
  return (name, mime) => {
    const own = (name.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '') || 'image').replace(/[^\p{L}\p{N}._-]+/gu, '-')
    const ending = mime === 'image/jpeg' ? 'jpg' : mime.slice(6)
    let free = `${stem}-${own}.${ending}`
    for (let i = 2; taken.has(free.toLowerCase()); i++) free = `${stem}-${own}-${i}.${ending}`
    taken.add(free.toLowerCase())
    return free
  }
}
