import { beforeAll, describe, expect, it } from 'vitest'
import { writeGlb } from '../src/formats'
import { landmarksAsPlaced, placeLandmark, type Landmark } from '../src/landmarks'
import { seededRandom, vec3At, type Vec3 } from '../src/math'
import { brushFor, closeCanvas, groundOf, layDab, type SkinEdit, type Stroke } from '../src/paint'
import { emptyRecipe, hashBytes, planFor, plannedSkeleton, type Recipe } from '../src/recipe'
import { applyMove, moveRecord, rigOf } from '../src/rig'
import { bindPose, type Skeleton } from '../src/skeleton'
import { LEAST_WEIGHT, limitedShare } from '../src/skin'
import { createDerivation, type Derivation } from '../src/steps'
import { cleanDoll } from './figure'

let derivation: Derivation
let recipe: Recipe
beforeAll(async () => {
  const glb = await writeGlb({ name: 'doll', ...(await cleanDoll()) })
  derivation = createDerivation(async () => glb)
  recipe = { ...emptyRecipe(), body: { name: 'doll.glb', hash: hashBytes(glb), size: glb.length } }
})

const sameSkeleton = (a: Skeleton, b: Skeleton): void => {
  expect(a.names).toEqual(b.names)
  expect(a.restTranslations).toEqual(b.restTranslations)
  expect(a.restRotations).toEqual(b.restRotations)
}

describe('what is shown during a gesture is what comes of it', () => {
  /** Strokes of the brush as the window lays them: dab by dab on the open skin, then as a record. */
  it.each([1, 2, 3])(
    'under the brush, whatever was painted before and however few joints are kept (seed %i)',
    async seed => {
      const random = seededRandom(seed)
      const { mesh, straightened } = await derivation.get('shape', recipe)
      const ground = await groundOf(mesh, straightened.height)
      const size = straightened.height
      const influences = 2 + Math.floor(4 * random())
      let now: Recipe = { ...recipe, skin: { ...recipe.skin, source: 'received', influences } }
      for (let i = 0; i < 4; i++) {
        const { skeleton } = await derivation.get('rig', now)
        const open = (await derivation.get('openSkin', now)).skin
        const canvas = {
          ...ground,
          skeleton,
          skin: { influences: open.influences, joints: open.joints.slice(), weights: open.weights.slice() },
        }
        const v = Math.floor((mesh.positions.length / 3) * random())
        const at = vec3At(mesh.positions, v)
        const record: Stroke = {
          kind: 'stroke',
          tool: (['add', 'take', 'replace', 'smooth'] as const)[Math.floor(4 * random())]!,
          joint: ['leftUpperArm', 'spine', 'rightLowerLeg'][Math.floor(3 * random())]!,
          dabs: [],
          radius: 0.05 + 0.1 * random(),
          strength: 0.2 + 0.7 * random(),
          value: random(),
          falloff: random(),
          mirror: random() < 0.5,
          through: true,
          locked: [],
        }
        const brush = brushFor(canvas, record)!
        const dabs: Stroke['dabs'] = []
        for (let d = 0; d < 5; d++) {
          const dab: Stroke['dabs'][number] = [at[0] / size, (at[1] + 0.02 * d) / size, at[2] / size, 0, 0, 1, 1]
          dabs.push(dab)
          layDab(canvas, brush, dab, new Set())
        }
        const shown = closeCanvas(canvas, influences, LEAST_WEIGHT)
        const edit: SkinEdit = { ...record, dabs }
        now = { ...now, skin: { ...now.skin, edits: [...now.skin.edits, edit] } }
        const result = await derivation.get('skin', now)
        expect(shown.weights).toEqual(result.weights)
        expect(shown.joints).toEqual(result.joints)
        // the colour under the brush is told from the same row
        const w = ground.weld.of[v]!
        for (const joint of [0, 3, 7]) {
          let share = 0
          for (let k = 0; k < influences; k++)
            if (result.joints[v * influences + k] === joint) share += result.weights[v * influences + k]!
          expect(limitedShare(canvas.skin, w, joint, influences)).toBeCloseTo(share, 6)
        }
      }
    },
  )

  it('under a joint that is dragged', async () => {
    const rig = await derivation.get('rig', recipe)
    const { height } = (await derivation.get('shape', recipe)).straightened
    const j = rig.skeleton.roles.indexOf('leftLowerArm')
    const to: Vec3 = [...vec3At(bindPose(rig.skeleton).positions, j)]
    to[1] += 0.03
    const edit = moveRecord(rig.skeleton, j, to, height, { children: true, mirror: true })
    const shown = applyMove(rigOf(rig.skeleton), edit, height).skeleton
    const result = await derivation.get('rig', { ...recipe, bones: { ...recipe.bones, edits: [edit] } })
    sameSkeleton(shown, result.skeleton)
  })

  it('under a landmark that is dragged, joint edits included', async () => {
    // landmarks of a body need not be searched for here: they are told
    const found: Landmark[] = MARKS.map(([id, position]) => ({ id, position, confidence: 0.8 }))
    const hands = { fingers: { left: [], right: [] } }
    const base: Recipe = {
      ...recipe,
      landmarks: { edits: placeLandmark(found, {}, 'leftKnee', [0.11, 0.5, 0.02], { mirror: false, height: 1.7 }) },
      bones: {
        ...recipe.bones,
        source: 'plan',
        edits: [
          { kind: 'split', joint: 'leftUpperArm', parts: 3, mirror: true },
          { kind: 'move', joint: 'leftLowerLeg', by: [0, 0.01, 0], children: false, mirror: false },
        ],
      },
    }
    const before = landmarksAsPlaced(found, [], base.landmarks.edits as Record<string, Vec3>, 1.7)
    const edits = placeLandmark(
      before,
      base.landmarks.edits as Record<string, Vec3>,
      'leftElbow',
      [0.48, 1.35, -0.02],
      {
        mirror: true,
        height: 1.7,
      },
    )
    const placed = landmarksAsPlaced(found, [], edits, 1.7)
    const shown = await plannedSkeleton(base, 'biped', placed, hands, 1.7)
    expect(shown.names.length).toBe(planFor(base, 'biped', placed, hands).names.length + 4)
    const knee = shown.roles.indexOf('leftLowerLeg')
    const moved = vec3At(bindPose(shown).positions, knee)
    // the knee is where the earlier edits put it, not where the search found it
    expect(Math.abs(moved[0] - 0.11)).toBeLessThan(0.03)
    expect(vec3At(bindPose(shown).positions, shown.roles.indexOf('leftLowerArm'))[0]).toBeCloseTo(0.48, 3)
  })
})

const MARKS: readonly (readonly [string, Vec3])[] = [
  ['crown', [0, 1.7, 0]],
  ['skullBase', [0, 1.55, 0]],
  ['chin', [0, 1.5, 0.05]],
  ['nose', [0, 1.58, 0.1]],
  ['neckBase', [0, 1.45, 0]],
  ['chest', [0, 1.25, 0]],
  ['loin', [0, 1.08, 0]],
  ['hips', [0, 0.95, 0]],
  ...([1, -1] as const).flatMap((s): [string, Vec3][] => {
    const side = s > 0 ? 'left' : 'right'
    return [
      [`${side}Shoulder`, [0.18 * s, 1.4, 0]],
      [`${side}Elbow`, [0.46 * s, 1.4, -0.02]],
      [`${side}Wrist`, [0.7 * s, 1.4, 0]],
      [`${side}HandTip`, [0.87 * s, 1.4, 0]],
      [`${side}Hip`, [0.1 * s, 0.9, 0]],
      [`${side}Knee`, [0.1 * s, 0.5, 0.02]],
      [`${side}Ankle`, [0.1 * s, 0.09, 0]],
      [`${side}Toes`, [0.1 * s, 0.03, 0.12]],
      [`${side}ToeTip`, [0.1 * s, 0.02, 0.18]],
    ]
  }),
]
