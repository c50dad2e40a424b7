import { describe, expect, it } from 'vitest'
import { jointsInWorld, recogniseRoles, skeletonFromWorld, type RoleReading } from '../src/skeleton'
import { human, someBody, type Rig } from './rigs/build'
import { EXACT_TRANSFER, perform } from '../src/perform'
import { EMPTY_NOTE, parsePerformerNote, writePerformerNote } from '../src/retarget'
import { STYLES } from './rigs/styles'
import { biped, wildTake } from './skeletons'

const MAIN = /^(hips|head|(left|right)(Front|Hind)?(Upper|Lower)(Arm|Leg)|(left|right)(Front|Hind)?(Hand|Foot))$/
const SEEDS = [3, 21, 77, 140]

/** Main roles that were given to another joint than the one that plays them, or to none. */
function wrong({ skeleton, truth, kind }: Rig, read: RoleReading): string[] {
  if (kind === 'other') return read.missing.length > 0 ? [] : [`taken for a ${read.kind}`]
  const roles = [...new Set([...Object.keys(truth), ...Object.keys(read.joints)])].filter(r => MAIN.test(r))
  return [
    ...(read.kind === kind ? [] : [`taken for a ${read.kind}`]),
    ...roles.flatMap(r => (truth[r] === read.joints[r] ? [] : [`${r}: ${skeleton.names[read.joints[r]] ?? 'none'}`])),
  ]
}

describe('skeletons of others', () => {
  it.each(STYLES.map(s => [s.name, s] as const))('%s: read right, or asked', (_, style) => {
    for (const seed of SEEDS) {
      const rig = style.make(seed)
      const read = recogniseRoles(rig.skeleton)
      expect([seed, read.doubts.length > 0 ? [] : wrong(rig, read)]).toEqual([seed, []])
    }
  })
  /** What nothing speaks against must not be asked about. */
  const CLEAR = [
    'plain names',
    'names of joints instead of bones',
    'shoulder, arm, forearm',
    'shoulder, elbow, wrist without collarbones',
    'no names at all',
    'a root on the ground and a centre of mass',
    'targets and poles beside the skeleton',
    'targets before the skeleton',
    'controls called as the bones are',
    'bones, mechanics and originals three times over',
    'twists in line',
    'twists beside',
    'fingers of four joints',
    'walking',
    'sitting',
    'arms raised',
    'facing away, centimetres, Z up',
    'lying on its back',
    'a skirt',
    'wings',
    'names in German',
    'limbs numbered, the collarbone first',
    'an animal named by its legs',
    'an animal without names',
    'an animal with controls',
  ]
  it.each(CLEAR)('%s: read without a doubt', name => {
    const style = STYLES.find(s => s.name === name)!
    for (const seed of SEEDS) {
      const rig = style.make(seed)
      const read = recogniseRoles(rig.skeleton)
      expect([seed, wrong(rig, read), read.missing, read.doubts.map(d => d.why)]).toEqual([seed, [], [], []])
      expect(read.confidence).toBeGreaterThan(0.7)
    }
  })
  it.each([
    ['sides named from the viewer', 'sides'],
    ['every joint hangs on the root', 'kind'],
    ['an ape on its knuckles', 'kind'],
    ['four arms', 'kind'],
  ])('%s: what is in doubt is said', (name, about) => {
    const { skeleton } = STYLES.find(s => s.name === name)!.make(5)
    const { doubts, confidence } = recogniseRoles(skeleton)
    expect(doubts.map(d => d.about)).toContain(about)
    expect(confidence).toBeLessThan(0.7)
  })
})

describe('the skin that follows a skeleton', () => {
  it('tells which of two chains of one name carries the body', () => {
    // two whole skeletons of one naming, the first of which carries nothing
    const one = jointsInWorld(human(someBody(9)).done('biped').skeleton)
    const half = one.length
    const again = one.map(j => ({ ...j, parent: j.parent < 0 ? -1 : j.parent + half }))
    const skeleton = skeletonFromWorld([...one, ...again])
    const carries = Uint8Array.from(skeleton.names, (_, j) => (j >= half ? 1 : 0))
    const { joints, missing } = recogniseRoles(skeleton, { carries })
    expect(missing).toEqual([])
    for (const j of Object.values(joints)) expect(j).toBeGreaterThanOrEqual(half)
  })
})

describe('a performer that was read wrongly', () => {
  it('is read as somebody says, and its take is carried over as that of one read right', async () => {
    const right = biped({ roles: false })
    const wrong = biped({
      roles: false,
      name: role => role.replace(/^(left|right)/, side => (side === 'left' ? 'right' : 'left')),
    })
    const take = wildTake(right, 5)
    const figure = biped()
    // one of them is called as the figure is, so corrections would not be the same
    const settings = EXACT_TRANSFER
    const plain = await perform(right, take, figure, { settings })
    const asRead = await perform(wrong, take, figure, { settings })
    const told = await perform(wrong, take, figure, { settings, note: { ...EMPTY_NOTE, reading: { swapped: true } } })
    expect(told.take.rotations).toEqual(plain.take.rotations)
    expect(told.performer.joints).toEqual(plain.performer.joints)
    expect(asRead.performer.joints).not.toEqual(plain.performer.joints)
    const settled = await perform(wrong, take, figure, { note: { ...EMPTY_NOTE, reading: { settled: true } } })
    expect(settled.performer.doubts).toEqual([])
    // what was said goes along in the performer's file
    const note = { ...EMPTY_NOTE, reading: { kind: 'biped' as const, swapped: true } }
    expect(parsePerformerNote(JSON.parse(new TextDecoder().decode(writePerformerNote('A', note))))).toMatchObject(note)
    // on four legs it has not what a dog has, and says so
    await expect(
      perform(right, take, figure, { note: { ...EMPTY_NOTE, reading: { kind: 'fourleg' } } }),
    ).rejects.toThrow(/four legs|lacks/)
  })
})
