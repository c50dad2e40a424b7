<script setup lang="ts">
/** Joints chosen together. */
const chosen = useChosen()
</script>

<template>
  <div class="mt-1">
    <p class="quiet mb-1 text-xs">Choose too (Ctrl or Shift and press for single ones)</p>
    <div class="flex flex-wrap gap-1">
      <button class="press !min-h-[22px] !px-1.5 text-xs" data-testid="choose-below" @click="chosen.withBelow()">
        All below
      </button>
      <button class="press !min-h-[22px] !px-1.5 text-xs" @click="chosen.withOtherSide()">The other side</button>
      <button class="press !min-h-[22px] !px-1.5 text-xs" data-testid="choose-all" @click="chosen.all()">All</button>
      <button
        v-if="chosen.many"
        class="press !min-h-[22px] !px-1.5 text-xs"
        @click="chosen.choose([chosen.joints[0]!])"
      >
        Only one
      </button>
    </div>
  </div>
</template>
