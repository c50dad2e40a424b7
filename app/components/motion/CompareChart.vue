<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { init, use, type ECharts } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'

use([LineChart, GridComponent, MarkLineComponent, TooltipComponent, CanvasRenderer])

/** Values over the take; pressing a moment goes there. */
const props = defineProps<{
  lines: readonly { name: string; values: ArrayLike<number> }[]
  fps: number
  unit: string
  time: number
  label: string
}>()
const emit = defineEmits<{ seek: [seconds: number] }>()
const view = useView()
const host = ref<HTMLDivElement>()
let chart: ECharts | undefined
const css = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
const TONES = ['--madder', '--verdigris', '--ochre', '--slate']
const DASHES = ['solid', 'dashed', 'dotted', [7, 3, 2, 3]] as const
const dash = (i: number): string | undefined => [undefined, '5 3', '2 2', '7 3 2 3'][i]

function draw(): void {
  if (!host.value) return
  if (!chart) {
    chart = init(host.value)
    chart.getZr().on('click', (e: { offsetX: number; offsetY: number }) => {
      const at = chart!.convertFromPixel({ gridIndex: 0 }, [e.offsetX, e.offsetY])
      if (at?.[0] !== undefined) emit('seek', Number(at[0]))
    })
  }
  const text = { color: css('--ink-2'), fontSize: 11, fontFamily: 'Spline Sans Mono Variable' }
  const seconds = (props.lines[0]?.values.length ?? 1) / props.fps
  chart.setOption(
    {
      animation: false,
      grid: { left: 36, right: 8, top: 8, bottom: 20 },
      xAxis: {
        type: 'value',
        min: 0,
        max: Math.max(0.1, seconds - 1 / props.fps),
        axisLabel: {
          ...text,
          formatter: (v: number) => `${Number(v.toFixed(1))} s`,
          hideOverlap: true,
          showMaxLabel: false,
        },
        axisLine: { lineStyle: { color: css('--rule') } },
        splitLine: { show: false },
      },
      yAxis: { type: 'value', axisLabel: text, splitNumber: 3, splitLine: { lineStyle: { color: css('--rule') } } },
      tooltip: {
        trigger: 'axis',
        renderMode: 'richText',
        backgroundColor: css('--paper'),
        borderColor: css('--rule'),
        textStyle: { color: css('--ink'), fontSize: 11 },
        valueFormatter: (v: unknown) => `${Number(v).toFixed(1)} ${props.unit}`,
      },
      series: props.lines.map((l, i) => ({
        type: 'line',
        name: l.name,
        symbol: 'none',
        sampling: 'lttb',
        lineStyle: { color: css(TONES[i]!), width: 1.8, type: DASHES[i] },
        itemStyle: { color: css(TONES[i]!) },
        data: Array.from(l.values, (v, f) => [f / props.fps, v]),
        ...(i === 0 && {
          markLine: {
            silent: true,
            symbol: 'none',
            label: { show: false },
            lineStyle: { color: css('--ink'), type: 'solid', width: 1 },
            data: [{ xAxis: props.time }],
          },
        }),
      })),
    },
    true,
  )
}
watch([() => props.lines, () => view.theme, host], () => void nextTick(draw))
// while playing only the line of the playhead moves
watch(
  () => props.time,
  t => chart?.setOption({ series: [{ markLine: { data: [{ xAxis: t }] } }] }),
)
onMounted(() => nextTick(draw))
onBeforeUnmount(() => chart?.dispose())
</script>

<template>
  <div>
    <div ref="host" class="h-[128px] w-full" role="img" :aria-label="label" />
    <div class="mt-1 grid grid-cols-2 gap-x-3">
      <span v-for="(l, i) in lines" :key="l.name" class="flex items-center gap-1.5 text-xs"
        ><svg width="18" height="6">
          <path d="M0 3H18" stroke-width="2" :stroke="`var(${TONES[i]})`" :stroke-dasharray="dash(i)" /></svg
        ><span class="truncate">{{ l.name }}</span></span
      >
    </div>
  </div>
</template>
