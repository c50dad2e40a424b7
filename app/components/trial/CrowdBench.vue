<script setup lang="ts">
/** Many of the figure at once: how many, how they differ, who walks, what it costs. */
const view = useView()
const trial = useTrial()
const crowd = useCrowd()
const { settings, agents, roles, shown, playing, spent, drawing, busy, frame } = crowd
const pictures = computed(crowdPictures)
/** Some of them side by side, each in what it plays. */
const row = computed(() => agents.value.filter(a => a.kind === 0 && pictures.value[a.clip]).slice(0, 8))
const drawnCount = computed(() => shown.value.reduce((s, n) => s + n, 0))
const each = computed(() => (agents.value.length > 0 ? (1000 * spent.value) / agents.value.length : 0))
const others = computed(() => trial.others.value.filter(o => !crowd.guests.value.some(g => g.id === o.id)))
function join(event: Event): void {
  const select = event.target as HTMLSelectElement
  if (select.value) void crowd.join(select.value)
  select.value = ''
}
</script>

<template>
  <TrialHead title="Crowd" sentence="The figure many times over, each with a take, a moment and a pace of its own." />
  <template v-if="crowd.made.value.length > 0">
    <div class="card" data-testid="crowd-who">
      <h3>Who</h3>
      <SliderRow
        label="Agents"
        unit=""
        :digits="0"
        :value="settings.agents"
        :min="1"
        :max="400"
        :step="1"
        @change="(v, joins) => crowd.set('Number of agents', { agents: v }, joins)"
      />
      <SliderRow
        label="Walk"
        unit="%"
        :digits="0"
        :value="Math.round(100 * settings.walking)"
        :min="0"
        :max="100"
        :step="5"
        @change="(v, joins) => crowd.set('Share that walks', { walking: v / 100 }, joins)"
      />
      <SliderRow
        label="Across"
        unit="m"
        :digits="0"
        :value="settings.across"
        :min="6"
        :max="60"
        :step="1"
        @change="(v, joins) => crowd.set('Width of the place', { across: v }, joins)"
      />
      <p v-for="(g, i) in crowd.guests.value" :key="g.id" class="flex items-center gap-2 py-0.5">
        <span class="flex-1 truncate">{{ g.guest.name }}</span><span class="num quiet text-xs">{{
          agents.filter(a => a.kind === i + 1).length
        }}</span
        ><button class="press !min-h-6" @click="crowd.leave(g.id)">Leave out</button>
      </p>
      <select v-if="others.length > 0" class="field mt-1" aria-label="Another figure among them" @change="join">
        <option value="">Another figure among them …</option>
        <option v-for="o in others" :key="o.id" :value="o.id">{{ o.name }}</option>
      </select>
    </div>
    <div class="card" data-testid="crowd-variety">
      <h3>How they differ</h3>
      <div class="mb-2 flex h-[62px] items-end gap-px overflow-hidden" aria-hidden="true" data-testid="crowd-row">
        <span
          v-for="(a, i) in row"
          :key="i"
          class="block shrink-0"
          :style="{
            width: `${36 * a.height}px`,
            height: `${52 * a.height}px`,
            backgroundColor: `rgb(${a.tint.map(t => Math.round(255 * Math.pow(t, 1.6))).join(',')})`,
            backgroundImage: `url(${pictures[a.clip]})`,
            backgroundBlendMode: 'multiply',
            backgroundSize: '100% 100%',
            maskImage: `url(${pictures[a.clip]})`,
            maskSize: '100% 100%',
          }"
        />
      </div>
      <SliderRow
        label="Heights, up and down"
        unit="%"
        :digits="0"
        :value="Math.round(100 * settings.heights)"
        :min="0"
        :max="30"
        :step="1"
        @change="(v, joins) => crowd.set('Heights', { heights: v / 100 }, joins)"
      />
      <SliderRow
        label="Paces, up and down"
        unit="%"
        :digits="0"
        :value="Math.round(100 * settings.paces)"
        :min="0"
        :max="30"
        :step="1"
        @change="(v, joins) => crowd.set('Paces', { paces: v / 100 }, joins)"
      />
      <SliderRow
        label="Colours"
        unit="%"
        :digits="0"
        :value="Math.round(100 * settings.tints)"
        :min="0"
        :max="100"
        :step="5"
        @change="(v, joins) => crowd.set('Colours', { tints: v / 100 }, joins)"
      />
      <button class="press mt-1" @click="crowd.set('Another order', { seed: settings.seed + 1 })">
        Place them anew
      </button>
    </div>
    <div class="card" data-testid="crowd-roles">
      <h3>What they play</h3>
      <template v-for="r in roles" :key="r.name">
        <p v-if="roles.length > 1" class="quiet text-xs">{{ r.name }}</p>
        <p v-for="c in r.clips" :key="c.name" class="flex items-center gap-2 py-[1px]" :data-role="c.name">
          <span class="w-28 truncate">{{ c.name }}</span><span class="h-2 flex-1 bg-paper-2"
            ><span
              class="block h-2 bg-ink"
              :style="{ width: `${(100 * c.count) / Math.max(1, agents.length)}%` }" /></span
          ><span class="num w-8 text-right text-xs">{{ c.count }}</span>
        </p>
      </template>
    </div>
    <div class="card" data-testid="crowd-cost">
      <h3>What it costs</h3>
      <p class="flex justify-between py-0.5">
        <span class="quiet">Placed</span><span class="num" data-testid="crowd-placed">{{ agents.length }}</span>
      </p>
      <p v-if="agents.length < settings.agents" class="quiet text-xs">There is no room for more without touching.</p>
      <p class="flex justify-between py-0.5">
        <span class="quiet">Drawn here</span><span class="num" data-testid="crowd-drawn">{{ drawnCount }}</span>
      </p>
      <p class="flex justify-between py-0.5">
        <span class="quiet">Posing all of them</span
        ><span class="num" data-testid="crowd-spent">{{ frame ? spent.toFixed(2) : '–' }} ms</span>
      </p>
      <p class="flex justify-between py-0.5">
        <span class="quiet">One agent</span><span class="num">{{ frame ? each.toFixed(1) : '–' }} µs</span>
      </p>
      <p class="flex justify-between py-0.5">
        <span class="quiet">Pictures a second</span
        ><span class="num">{{ drawing > 0 ? (1000 / drawing).toFixed(0) : '–' }}</span>
      </p>
      <p v-if="drawnCount < agents.length" class="quiet text-xs">
        Fewer are drawn than there are, because this machine draws slowly. All of them are moved on.
      </p>
      <div class="mt-1 flex gap-2">
        <button class="press flex-1" :class="playing ? '' : 'press-on'" @click="playing = !playing">
          {{ playing ? 'Pause' : 'Go on' }}
        </button>
        <button class="press flex-1" :disabled="crowd.writing.value" data-testid="save-crowd" @click="crowd.save()">
          {{ crowd.writing.value ? 'Writing …' : 'JSON with GLB' }}
        </button>
      </div>
    </div>
    <p v-if="busy" class="card quiet">Making them ready …</p>
  </template>
  <p v-else-if="trial.wanted.value.length === 0" class="card quiet">
    Mark takes in the list: agents have nothing to play yet.
  </p>
  <div class="bench-foot">
    <button class="press press-main" @click="view.go('deliver')">Go on to Delivery</button>
  </div>
</template>
