<script setup lang="ts">
/** A line of text, settled by Enter or by leaving it, given up by Escape. What is being typed stands whatever happens around it. */
const props = defineProps<{ value: string }>()
const emit = defineEmits<{ change: [text: string]; leave: [] }>()
const field = ref<HTMLInputElement>()
const text = ref(props.value)
const typing = ref(false)
watch(
  () => props.value,
  value => {
    if (!typing.value) text.value = value
  },
)
let given = false
function settle(): void {
  typing.value = false
  const next = text.value.trim()
  if (!given && next !== props.value) emit('change', next)
  given = false
  text.value = props.value
  emit('leave')
}
function giveUp(): void {
  given = true
  field.value?.blur()
}
defineExpose({ select: () => field.value?.select() })
</script>

<template>
  <input
    ref="field"
    v-model="text"
    @focus="typing = true"
    @blur="settle"
    @keydown.enter="field?.blur()"
    @keydown.esc.stop="giveUp"
  />
</template>
