<script setup lang="ts">
/** Takes that go along, by who performed them. */
const delivery = useDelivery()
const { groups, chosen } = delivery
const counted = (ids: readonly { id: string }[]): number => ids.filter(t => chosen.value.has(t.id)).length
/** Groups that are laid open. */
const open = ref(new Set<string>())
function fold(name: string): void {
  const next = new Set(open.value)
  if (!next.delete(name)) next.add(name)
  open.value = next
}
</script>

<template>
  <div class="card" data-testid="delivered-takes">
    <h3>
      Takes <span class="num quiet font-normal">· {{ chosen.size }}</span>
    </h3>
    <p v-if="groups.length === 0" class="quiet">None yet; the figure is delivered at rest.</p>
    <div v-for="g in groups" :key="g.name" class="py-0.5" :data-group="g.name">
      <div class="flex items-center gap-2">
        <button class="min-w-0 flex-1 truncate text-left" :aria-expanded="open.has(g.name)" @click="fold(g.name)">
          <span class="inline-block w-4">{{ open.has(g.name) ? '–' : '+' }}</span>{{ g.name }}
          <span class="num quiet">{{ counted(g.takes) }} of {{ g.takes.length }}</span>
        </button>
        <button class="press !px-2" :disabled="counted(g.takes) === g.takes.length" @click="delivery.setGroup(g, true)">
          All
        </button>
        <button class="press !px-2" :disabled="counted(g.takes) === 0" @click="delivery.setGroup(g, false)">
          None
        </button>
      </div>
      <template v-if="open.has(g.name)">
        <label v-for="t in g.takes" :key="t.id" class="flex items-center gap-2 py-[2px] pl-4"
          ><input
            type="checkbox"
            class="accent-madder"
            :checked="chosen.has(t.id)"
            :data-deliver="t.name"
            @change="delivery.toggle(t.id, t.name)"
          />{{ t.name }}</label
        >
      </template>
    </div>
  </div>
</template>
