<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { init, use, type ECharts } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import type { StrainRange } from '@chiraxis/core/strain'
import { core, progressOf, RefusedError, tell, unwrap } from '~/workers/client'

use([LineChart, GridComponent, TooltipComponent, CanvasRenderer])

/** Strain of the most strained regions on the way into a pose. */
const props = defineProps<{ pose: string }>()
const view = useView()
const derived = useDerived()
const poses = useCheckPoses()
const project = useProject()
const host = ref<HTMLDivElement>()
const range = shallowRef<StrainRange>()
let chart: ECharts | undefined
let asked = 0

async function ask(): Promise<void> {
  const turn = ++asked
  await new Promise(resolve => setTimeout(resolve, 350))
  if (turn !== asked || view.playingPoses) return
  try {
    const answer = await unwrap(
      core().strainRange(
        tell(project.recipe),
        props.pose,
        `range-${turn}`,
        progressOf(() => undefined),
      ),
    )
    if (turn === asked) range.value = answer
  } catch (error) {
    if (!(error instanceof RefusedError)) console.error(error)
  }
}
watch(
  () => [props.pose, derived.skin, view.playingPoses],
  () => void ask(),
  { immediate: true },
)
const lines = computed(() => range.value?.regions.slice(0, 4) ?? [])
const css = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
const TONES = ['--madder', '--verdigris', '--ochre', '--slate']
const DASHES = ['solid', 'dashed', 'dotted', [7, 3, 2, 3]] as const

function draw(): void {
  if (!host.value || !range.value) return
  chart ??= init(host.value)
  const label = { color: css('--ink-2'), fontSize: 11, fontFamily: 'Spline Sans Mono Variable' }
  chart.setOption(
    {
      animation: false,
      grid: { left: 34, right: 8, top: 8, bottom: 22 },
      xAxis: {
        type: 'value',
        min: 0,
        max: 100,
        interval: 25,
        axisLabel: { ...label, formatter: '{value} %' },
        axisLine: { lineStyle: { color: css('--rule') } },
        splitLine: { show: false },
      },
      yAxis: { type: 'value', axisLabel: label, splitNumber: 3, splitLine: { lineStyle: { color: css('--rule') } } },
      tooltip: {
        trigger: 'axis',
        renderMode: 'richText',
        backgroundColor: css('--paper'),
        borderColor: css('--rule'),
        textStyle: { color: css('--ink'), fontSize: 11 },
        valueFormatter: (v: unknown) => `${Number(v).toFixed(1)} %`,
      },
      series: lines.value.map((l, i) => ({
        type: 'line',
        name: l.label,
        symbol: 'none',
        lineStyle: { color: css(TONES[i]!), width: 2, type: DASHES[i] },
        itemStyle: { color: css(TONES[i]!) },
        data: range.value!.shares.map((s, k) => [100 * s, l.scores[k]!]),
      })),
    },
    true,
  )
}
watch([range, () => view.theme, host], () => void nextTick(draw))
onBeforeUnmount(() => chart?.dispose())
const label = computed(() => poses.value.find(p => p.id === props.pose)?.label ?? '')
</script>

<template>
  <div class="card">
    <h3>On the way to {{ label.toLowerCase() }}</h3>
    <div ref="host" class="h-[132px] w-full" role="img" :aria-label="`Strain of regions on the way to ${label}`" />
    <div class="mt-1 grid grid-cols-2 gap-x-3">
      <span v-for="(l, i) in lines" :key="l.id" class="flex items-center gap-1.5 text-xs"
        ><svg width="18" height="6">
          <path
            d="M0 3H18"
            stroke-width="2"
            :stroke="`var(${TONES[i]})`"
            :stroke-dasharray="i === 0 ? undefined : i === 1 ? '5 3' : i === 2 ? '2 2' : '7 3 2 3'"
          /></svg
        ><span class="truncate">{{ l.label }}</span></span
      >
    </div>
  </div>
</template>
