<script setup lang="ts">
import type { ArchivedFile } from '@chiraxis/core/delivery'
import type { Proof } from '@chiraxis/core/formats'

/** What reading the written files back showed, in numbers. */
const { files, name } = defineProps<{ files: readonly ArchivedFile[]; name: string }>()
interface Row {
  readonly label: string
  readonly value: string
  readonly good: boolean
}
/** A proof of any format by the parts all of them have. */
type Told = Partial<Proof> & {
  readonly bytes: number
  /** Why it does not hold what it should. */
  readonly unproven?: string
  readonly notes?: readonly string[]
}
const proofs = computed(() => files.map(f => f.proof as Told))
const most = (of: (p: Told) => number | undefined): number | undefined => {
  const all = proofs.value.map(of).filter(v => v !== undefined)
  return all.length > 0 ? all.reduce((a, b) => Math.max(a, b)) : undefined
}
const rows = computed<Row[]>(() => {
  const errors = most(p => p.validatorErrors)
  const warnings = most(p => p.validatorWarnings)
  const turned = most(p => p.maxRotationErrorDegrees)
  const weight = most(p => p.maxWeightError)
  const strays = most(p => p.thinned?.maxRotationErrorDegrees)
  const shift = most(p => p.maxPositionError)
  const moved = most(p => p.packed?.maxPositionError)
  const normal = most(p => p.packed?.maxNormalErrorDegrees)
  const share = most(p => p.packed?.share)
  const unproven = proofs.value.filter(p => p.unproven !== undefined).length
  const size = files.reduce((n, f) => n + f.size, 0)
  return [
    ...(files.length > 1 ? [{ label: 'Files, each read back', value: String(files.length), good: true }] : []),
    ...(errors === undefined ? [] : [{ label: 'Validator errors', value: String(errors), good: errors === 0 }]),
    ...(warnings === undefined ? [] : [{ label: 'Validator warnings', value: String(warnings), good: warnings === 0 }]),
    ...(unproven === 0 ? [] : [{ label: 'Files not proven', value: String(unproven), good: false }]),
    ...(shift === undefined
      ? []
      : [{ label: 'Largest shift of a point', value: `${(1000 * shift).toFixed(4)} mm`, good: shift < 1e-3 }]),
    ...(turned === undefined
      ? []
      : [{ label: 'Largest turn of a joint', value: `${turned.toFixed(4)}°`, good: turned < 0.02 }]),
    ...(weight === undefined
      ? []
      : [
          {
            label: 'Largest difference of a weight',
            value: weight === 0 ? '0' : weight.toExponential(1),
            good: weight < 4e-3,
          },
        ]),
    ...(strays === undefined ? [] : [{ label: 'Keys left out stray by', value: `${strays.toFixed(3)}°`, good: true }]),
    ...(moved === undefined
      ? []
      : [{ label: 'Packing shifts a point by', value: `${(1000 * moved).toFixed(4)} mm`, good: true }]),
    ...(normal === undefined || normal === 0
      ? []
      : [{ label: 'Packing turns a normal by', value: `${normal.toFixed(2)}°`, good: true }]),
    ...(share === undefined
      ? []
      : [{ label: 'Of its size unpacked', value: `${(100 * share).toFixed(0)} %`, good: true }]),
    {
      label: 'Size',
      value: size < 1e6 ? `${(size / 1e3).toFixed(0)} kB` : `${(size / 1e6).toFixed(2)} MB`,
      good: true,
    },
  ]
})
const notes = computed(() => [
  ...new Set([...files.flatMap(f => f.notes), ...proofs.value.flatMap(p => p.notes ?? [])]),
])
const [one] = files
const single = computed(() => (files.length === 1 ? (one?.proof as Told) : undefined))
</script>

<template>
  <div class="card" data-testid="proof">
    <h3>
      Proof <span class="quiet font-normal">· {{ name }}</span>
    </h3>
    <div v-for="r in rows" :key="r.label" class="flex justify-between py-0.5">
      <span class="quiet">{{ r.label }}</span><span class="num" :class="r.good ? '' : 'font-semibold text-madder'">{{
        r.value
      }}</span>
    </div>
    <p v-if="single?.sameAsSource" class="mt-1">
      Same as the file it came in, but for what was asked: nodes, materials, images, attributes, extras.
    </p>
    <p v-for="n in notes" :key="n" class="mt-1 text-xs">{{ n }}</p>
    <p v-for="m in single?.inherited ?? []" :key="m" class="mt-1 text-xs">Came so in the file: {{ m }}</p>
    <p v-for="m in single?.messages ?? []" :key="m" class="mt-1 text-xs text-madder">{{ m }}</p>
    <details v-if="files.length > 1" class="mt-1">
      <summary class="cursor-pointer">Each file</summary>
      <div v-for="(f, i) in files" :key="f.name" class="flex justify-between gap-2 py-[1px] text-xs">
        <span class="truncate">{{ f.name }}</span><span class="num quiet shrink-0">{{
          proofs[i]!.unproven ? 'not proven' : `${(1000 * (proofs[i]!.maxPositionError ?? 0)).toFixed(4)} mm`
        }}</span>
      </div>
    </details>
  </div>
</template>
