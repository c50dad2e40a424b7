<script setup lang="ts">
import { landmarkKind, landmarksByProportion } from '@chiraxis/core/landmarks'
import { fingerOf, partnerOf } from '@chiraxis/core/body'

/** A small drawn body that shows where a landmark belongs: thick strokes for limbs, the mark on them. */
const props = defineProps<{ id: string; plan: 'biped' | 'fourleg' }>()
const finger = computed(() => fingerOf(props.id))
// a box of a body's usual proportions gives the template its places
const BOX = {
  biped: Float32Array.of(-0.5, 0, -0.12, 0.5, 1, 0.12),
  fourleg: Float32Array.of(-0.2, 0, -0.75, 0.2, 1, 0.75),
}
const CHAINS = {
  biped: [
    ['crown', 'skullBase', 'neckBase', 'chest', 'hips'],
    ...['left', 'right'].flatMap(s => [
      ['neckBase', `${s}Shoulder`, `${s}Elbow`, `${s}Wrist`, `${s}HandTip`],
      ['hips', `${s}Hip`, `${s}Knee`, `${s}Ankle`, `${s}ToeTip`],
    ]),
  ],
  fourleg: [
    ['nose', 'skullBase', 'neckBase', 'chest', 'loin', 'hips', 'tailBase', 'tailMiddle', 'tailTip'],
    ['chest', 'leftFrontShoulder', 'leftFrontHip', 'leftFrontElbow', 'leftFrontWrist', 'leftFrontToes', 'leftFrontTip'],
    ['hips', 'leftHindHip', 'leftHindKnee', 'leftHindHock', 'leftHindToes', 'leftHindTip'],
    ['skullBase', 'crown'],
  ],
}
const WIDE: Record<string, number> = { chest: 15, hips: 14, loin: 13, neckBase: 8, skullBase: 12 }
const places = computed(
  () =>
    new Map(
      landmarksByProportion(BOX[props.plan], props.plan).map(l => {
        const [x, y, z] = l.position
        return [
          l.id,
          props.plan === 'fourleg' ? { x: 62 - z * 62, y: 92 - y * 84 } : { x: 60 + x * 104, y: 110 - y * 104 },
        ] as const
      }),
    ),
)
const strokes = computed(() =>
  CHAINS[props.plan].flatMap(chain =>
    chain.slice(1).flatMap((id, i) => {
      const a = places.value.get(chain[i]!),
        b = places.value.get(id)
      return a && b
        ? [
            {
              key: `${chain[i]}${id}`,
              d: `M${a.x} ${a.y}L${b.x} ${b.y}`,
              w: Math.min(WIDE[chain[i]!] ?? 7, WIDE[id] ?? 7),
            },
          ]
        : []
    }),
  ),
)
const HAND = {
  Thumb: [
    [30, 78],
    [18, 58],
    [12, 44],
    [8, 30],
  ],
  Index: [
    [40, 52],
    [38, 34],
    [37, 22],
    [36, 10],
  ],
  Middle: [
    [53, 50],
    [53, 30],
    [53, 17],
    [53, 4],
  ],
  Ring: [
    [66, 52],
    [68, 33],
    [69, 21],
    [70, 9],
  ],
  Little: [
    [78, 58],
    [83, 43],
    [86, 34],
    [88, 25],
  ],
} as Record<string, number[][]>
const handMark = computed(() => {
  const { finger: name, part } = finger.value ?? {}
  const order =
    name === 'Thumb' ? ['Metacarpal', 'Proximal', 'Distal', 'Tip'] : ['Proximal', 'Intermediate', 'Distal', 'Tip']
  return name && part ? HAND[name]?.[order.indexOf(part)] : undefined
})
const mark = computed(
  () =>
    places.value.get(props.plan === 'fourleg' ? props.id.replace(/^right/, 'left') : props.id) ??
    places.value.get(partnerOf(props.id)),
)
const side = computed(() => landmarkKind(props.id)?.side ?? 'middle')
</script>

<template>
  <svg
    v-if="finger"
    width="96"
    height="112"
    viewBox="0 0 100 116"
    role="img"
    aria-label="Where it belongs on the hand"
    :style="side === 'left' ? 'transform: scaleX(-1)' : ''"
  >
    <g stroke="var(--rule)" fill="none" stroke-linecap="round" stroke-linejoin="round">
      <path
        d="M40 56L42 90M53 54L53 90M66 56L62 90M78 62L68 92M30 78L44 96M46 94L62 94L60 112L48 112Z"
        stroke-width="17"
      />
      <polyline
        v-for="(line, name) in HAND"
        :key="name"
        :points="line.map(p => p.join()).join(' ')"
        stroke-width="11"
      />
    </g>
    <g fill="var(--ink-2)">
      <circle v-for="(p, i) in Object.values(HAND).flat()" :key="i" :cx="p[0]" :cy="p[1]" r="1.6" />
    </g>
    <circle
      v-if="handMark"
      :cx="handMark[0]"
      :cy="handMark[1]"
      r="5.5"
      fill="none"
      stroke="var(--madder)"
      stroke-width="2.4"
    />
  </svg>
  <svg v-else width="112" height="112" viewBox="0 0 120 116" role="img" aria-label="Where it belongs on the body">
    <g stroke="var(--rule)" fill="none" stroke-linecap="round">
      <path v-for="s in strokes" :key="s.key" :d="s.d" :stroke-width="s.w" />
    </g>
    <g fill="var(--ink-2)"><circle v-for="[id, p] in places" :key="id" :cx="p.x" :cy="p.y" r="1.5" /></g>
    <circle v-if="mark" :cx="mark.x" :cy="mark.y" r="6" fill="none" stroke="var(--madder)" stroke-width="2.6" />
  </svg>
</template>
