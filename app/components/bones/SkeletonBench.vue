<script setup lang="ts">
import { angleBetween, distance, sub } from '@chiraxis/core/math'
import { jointsInWorld, roleLabel, sideOf } from '@chiraxis/core/skeleton'

const view = useView()
const derived = useDerived()
const joints = computed(() => (derived.skeleton ? jointsInWorld(derived.skeleton) : []))
const chosen = computed(() => joints.value[view.joint])
const child = computed(() => {
  const own = joints.value.map((j, i) => ({ j, i })).filter(x => x.j.parent === view.joint)
  return own.length === 1 ? own[0]!.j : undefined
})
const end = computed(() => child.value?.position ?? chosen.value?.tip)
const boneLength = computed(() => (chosen.value && end.value ? distance(chosen.value.position, end.value) * 100 : undefined))
/** Knees and elbows: how far they are bent at rest. */
const bends = computed(() => ['leftLowerArm', 'rightLowerArm', 'leftLowerLeg', 'rightLowerLeg'].flatMap(role => {
  const j = joints.value.find(x => x.role === role)
  const parent = j && joints.value[j.parent]
  const next = j && joints.value.find(x => joints.value[x.parent] === j)
  if (!j || !parent || !next) return []
  return [{ role, label: role.includes('Arm') ? `${role.startsWith('left') ? 'Left' : 'Right'} elbow` : `${role.startsWith('left') ? 'Left' : 'Right'} knee`, degrees: (angleBetween(sub(j.position, parent.position), sub(next.position, j.position)) * 180) / Math.PI }]
}))
</script>

<template>
  <BenchHead title="Skeleton" sentence="Built from the landmarks: every joint in the middle of its limb, +Y along its bone, +X its hinge. Move landmarks to move joints." />
  <WorkProgress step="landmarks" what="Finding landmarks" />
  <WorkProgress step="skeleton" what="Building the skeleton" />
  <div v-if="chosen" class="card">
    <h3 class="flex items-center gap-2"><SideIcon :side="sideOf(chosen.role ?? chosen.name)" />{{ chosen.role ? roleLabel(chosen.role) : chosen.name }}<span class="num quiet ml-auto text-xs font-normal">{{ chosen.name }}</span></h3>
    <div v-for="(axis, k) in ['Across', 'Height', 'Depth']" :key="axis" class="flex justify-between py-0.5"><span class="quiet">{{ axis }}</span><span class="num">{{ (chosen.position[k]! * 100).toFixed(1) }} cm</span></div>
    <div v-if="boneLength !== undefined" class="flex justify-between py-0.5"><span class="quiet">Bone length</span><span class="num">{{ boneLength.toFixed(1) }} cm</span></div>
    <div class="flex justify-between py-0.5"><span class="quiet">Hangs on</span><span>{{ chosen.parent >= 0 ? roleLabel(joints[chosen.parent]!.role ?? joints[chosen.parent]!.name) : 'nothing: the root' }}</span></div>
    <p class="quiet mt-2 text-xs">Axes on the plate: <b style="color:#c2352c">x</b> hinge, <b style="color:#2f8f38">y</b> along the bone, <b style="color:#3f6fd8">z</b>.</p>
  </div>
  <div v-if="bends.length > 0" class="card">
    <h3>Bend at rest</h3>
    <div v-for="b in bends" :key="b.role" class="flex justify-between py-0.5"><span class="quiet">{{ b.label }}</span><span class="num">{{ b.degrees.toFixed(1) }}°</span></div>
    <p class="quiet mt-1 text-xs">At least 2° the natural way, so that a solver never picks the wrong side.</p>
  </div>
  <div class="card"><h3>Display</h3><SwitchRow v-model="view.seeThrough" label="See through the body" /></div>
  <div class="mt-auto p-4"><button class="press press-main" :disabled="!derived.skeleton" @click="view.go('skin')">Go on to the skin</button></div>
</template>
