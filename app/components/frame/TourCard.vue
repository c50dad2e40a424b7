<script setup lang="ts">
const tour = useTour()
const card = ref<HTMLElement>()
// who goes by keyboard finds the next press under the hand
const toNext = (): void => card.value?.querySelector<HTMLElement>('[data-next]')?.focus({ preventScroll: true })
onMounted(toNext)
watch(tour.at, async () => {
  await nextTick()
  toNext()
})
</script>

<template>
  <section
    v-if="tour.stop.value"
    ref="card"
    class="absolute bottom-4 left-4 z-20 w-[330px] max-w-[calc(100%-32px)] rounded border border-rule bg-paper p-4 shadow-xl"
    aria-label="Tour"
    data-testid="tour"
    @keydown.esc.stop="tour.leave"
  >
    <p class="quiet num text-xs">{{ tour.at.value! + 1 }} of {{ tour.count }}</p>
    <h2 class="mb-1 text-[15px] font-bold">{{ tour.stop.value.title }}</h2>
    <p class="mb-3" role="status">{{ tour.stop.value.text }}</p>
    <div class="flex gap-2">
      <button class="press border-ink font-semibold" data-next @click="tour.next">
        {{ tour.at.value! + 1 < tour.count ? 'Next' : 'End of the tour' }}
      </button>
      <button v-if="tour.at.value! > 0" class="press" @click="tour.back">Back</button>
      <button class="press ml-auto" @click="tour.leave">Leave</button>
    </div>
  </section>
</template>
