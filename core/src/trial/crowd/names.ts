/** What programs put before and behind the name of a take: the skeleton's, a file's end, a running number, a layer. */
const BEFORE = /^(?:[^|]*\|)+|^(?:armature|skeleton|rig|anim(?:ation)?|take|clip)[\s_.:-]+(?=\p{L})/giu
const BEHIND =
  /\.(?:fbx|bvh|glb|gltf|vrma)$|[\s_.-]+(?:anim(?:ation)?|take|clip|layer ?\d*|baselayer|base layer)$|\.\d{3}$/giu

/** The name of a take as people call it: words in small letters, apart; what the files around it added is gone. */
export function clipName(name: string): string {
  let out = name
  for (let i = 0; i < 3; i++) out = out.replace(BEFORE, '').replace(BEHIND, '')
  out = out
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .replace(/[_\-.:|]+/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .toLowerCase()
  return out || name.trim() || 'take'
}

/** Names of clips, each once: the second of one name gets a number. */
export function clipNames(names: readonly string[]): string[] {
  const seen = new Map<string, number>()
  return names.map(n => {
    const clean = clipName(n)
    const times = (seen.get(clean) ?? 0) + 1
    seen.set(clean, times)
    return times === 1 ? clean : `${clean} ${times}`
  })
}
