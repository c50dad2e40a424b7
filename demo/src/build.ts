import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { hashBytes } from '@chiraxis/core/recipe'
import { writeBvh, writeGlb, writePly, writeVrmAnimation } from '@chiraxis/core/formats'
import { transfer } from '@chiraxis/core/retarget'
import {
  makeAutomaton,
  TOLLY,
  TOLLY_COLORS,
  BRINDLE,
  cleanRig,
  dressed,
  makeFigure,
  makeHeron,
  makeHound,
  ODA,
  ODA_COLORS,
  PIM,
  PIM_COLORS,
  REED,
  scanned,
  withFaults,
  withTake,
} from './figures'
import { boardingCall } from './voice'
import { FERRY_POLE, propFile, SIGNAL_LANTERN } from './props'
import { heronPlanFile } from './heron-plan'
import { HOUND_MOVES, HOUND_TAGS, MOVES, NORTH, NORTH_HOUND, record, SOUTH, SOUTH_HOUND, TAGS } from './takes'

/**
 * Everything the demo ships, in a fixed order: file name and bytes.
 * @param detail share of the vertices its bodies have; tests of the window need no fine ones
 */
export async function buildDemo(detail = 1): Promise<{ name: string; bytes: Uint8Array }[]> {
  const vertices = (count: number): { vertices: number } => ({ vertices: Math.round(count * detail) })
  const files: { name: string; bytes: Uint8Array }[] = []
  const truth: Record<string, unknown> = {}
  const oda = makeFigure(ODA, { ...vertices(30_000), palette: ODA_COLORS, eyes: true })
  const pim = makeFigure(PIM, { ...vertices(20_000), palette: PIM_COLORS, eyes: true })
  const brindle = makeHound(BRINDLE, { ...vertices(20_000), eyes: true })
  const scan = scanned(makeFigure(ODA, { ...vertices(125_000), palette: ODA_COLORS }))
  const put = async (
    file: string,
    name: string,
    content: Parameters<typeof writeGlb>[0] | Uint8Array,
    true_: object,
  ): Promise<void> => {
    files.push({ name: file, bytes: content instanceof Uint8Array ? content : await writeGlb(content) })
    const kind = name === 'Brindle' ? 'fourleg' : name === 'Reed' ? 'drawn' : 'biped'
    figures.push({ file, name, kind, ...(kind === 'drawn' && { plan: 'heron.plan.json' }) })
    truth[file.replace(/\.[a-z]+$/, '')] = true_
  }
  const figures: { file: string; name: string; kind: 'biped' | 'fourleg' | 'drawn'; plan?: string }[] = []
  const bare = makeFigure(ODA, { ...vertices(26_000), palette: ODA_COLORS, headless: true })
  const worn = await dressed(bare, ODA, ODA_COLORS, Math.round(7000 * detail), detail)
  await put(
    'oda-marl.glb',
    'Oda Marl',
    { name: 'Oda Marl', mesh: worn.mesh },
    { height: oda.height, joints: oda.joints },
  )
  await put('pim.glb', 'Pim', { name: 'Pim', mesh: pim.mesh }, { height: pim.height, joints: pim.joints })
  const tolly = makeAutomaton(TOLLY, TOLLY_COLORS, Math.round(16_000 * detail))
  await put('tolly.glb', 'Tolly', { name: 'Tolly', mesh: tolly.mesh }, { height: tolly.height, joints: tolly.joints })
  await put(
    'brindle.glb',
    'Brindle',
    { name: 'Brindle', mesh: brindle.mesh },
    { height: brindle.height, joints: brindle.joints },
  )
  const reed = makeHeron(REED, { ...vertices(16_000), eyes: true })
  await put('reed.glb', 'Reed', { name: 'Reed', mesh: reed.mesh }, { height: reed.height, joints: reed.joints })
  const plan = await heronPlanFile(REED, reed.height)
  files.push({ name: 'heron.plan.json', bytes: new TextEncoder().encode(JSON.stringify(plan, null, 1)) })
  await put('oda-scanned.ply', 'Oda, scanned', writePly(scan.mesh), { height: oda.height, joints: scan.joints })
  const rigged = await cleanRig(pim.mesh)
  const walk = record(
    MOVES.find(m => m.name === 'walk')!,
    NORTH,
  )
  const own = await transfer(walk.skeleton, walk.take, rigged.skeleton)
  const faulty = withFaults(withTake(rigged, { ...own.take, name: 'walk' }))
  await put(
    'pim-received.glb',
    'Pim, received',
    { name: 'Pim, received', mesh: faulty.mesh, skeleton: faulty.skeleton, skin: faulty.skin, takes: faulty.takes },
    { height: pim.height, joints: pim.joints },
  )
  const dense = makeFigure(PIM, { ...vertices(100_000), palette: PIM_COLORS, eyes: true })
  files.push({ name: 'pim-dense.glb', bytes: await writeGlb({ name: 'Pim', mesh: dense.mesh }) })
  truth['pim-dense'] = { height: dense.height, joints: dense.joints }
  for (const { file, made } of PROPS) files.push({ name: file, bytes: propFile(made) })
  const contacts: Record<string, unknown> = {}
  const takes: {
    file: string
    name: string
    performer: string
    tags: readonly string[]
    kind: 'biped' | 'fourleg'
    size: number
  }[] = []
  for (const { moves, habits, tags, kind } of REPERTOIRE)
    for (const move of moves)
      for (const habit of habits) {
        const { skeleton, take, contacts: true_ } = record(move, habit)
        const file = `${fileName(move.name)}.${habit.name.toLowerCase()}.bvh`
        const bytes = writeBvh(skeleton, take)
        files.push({ name: file, bytes })
        takes.push({ file, name: move.name, performer: habit.name, tags: tags[move.name], kind, size: bytes.length })
        contacts[move.name] = true_
      }
  // the same recordings in other formats, to bring in by hand: several takes in one file, and one for humanoids of any make
  const onNorth = (name: string) =>
    record(
      MOVES.find(m => m.name === name)!,
      NORTH,
    )
  const gestures = ['wave', 'point and talk', 'jig'].map(onNorth)
  files.push({
    name: 'gestures.north.glb',
    bytes: await writeGlb({ name: 'North', skeleton: gestures[0].skeleton, takes: gestures.map(g => g.take) }),
  })
  for (const name of ['walk', 'lookout idle']) {
    const { skeleton, take } = onNorth(name)
    files.push({ name: `${fileName(name)}.north.vrma`, bytes: await writeVrmAnimation(skeleton, take) })
  }
  const call = boardingCall()
  files.push({ name: 'boarding-call.wav', bytes: call.bytes })
  truth['boarding-call'] = { said: call.said }
  files.push({ name: 'truth.json', bytes: new TextEncoder().encode(JSON.stringify({ figures: truth, contacts })) })
  const index = {
    figures,
    takes,
    props: PROPS.map(({ file, made, carry, takes: used }) => ({ file, name: made.name, carry, takes: used })),
    hashes: Object.fromEntries(files.map(f => [f.name, hashBytes(f.bytes)])),
  }
  files.push({ name: 'index.json', bytes: new TextEncoder().encode(JSON.stringify(index, null, 1)) })
  return files
}

/** What the crew carries: how, and how in takes that need it. */
const PROPS = [
  {
    file: 'ferry-pole.glb',
    made: FERRY_POLE,
    carry: { by: 'leftHand', grip: 'grip lower' },
    takes: {
      'pole push': {
        by: 'rightHand',
        grip: 'grip lower',
        second: { by: 'leftHand', grip: 'grip upper' },
        aim: 'between',
      },
    },
  },
  {
    file: 'signal-lantern.glb',
    made: SIGNAL_LANTERN,
    carry: { by: 'rightHand', grip: 'grip bail' },
    // both hands are on the pole: it hangs from her belt
    takes: { 'pole push': { by: 'hips', grip: 'grip bail', shift: [-0.15, -0.04, 0.06] } },
  },
] as const

/** What was recorded, on two legs and on four. */
const REPERTOIRE = [
  { moves: MOVES, habits: [NORTH, SOUTH], tags: TAGS, kind: 'biped' },
  { moves: HOUND_MOVES, habits: [NORTH_HOUND, SOUTH_HOUND], tags: HOUND_TAGS, kind: 'fourleg' },
] as const

const fileName = (take: string): string => take.replace(/\s+/g, '-')

const out = process.argv[2]
if (out) {
  mkdirSync(out, { recursive: true })
  for (const { name, bytes } of await buildDemo(Number(process.argv[3] ?? 1))) writeFileSync(join(out, name), bytes)
}
