<script setup lang="ts">
// One shell, four desks, one canvas behind them all.
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { useRoute, useRouter } from 'vue-router'
import { defineAsyncComponent, onBeforeUnmount, onMounted, ref, watch, watchEffect } from 'vue'
import { useAlternates } from '@/stores/alternates'
import { usePeople } from '@/stores/people'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView, type Desk } from '@/stores/view'
import { usePreferences } from '@/stores/preferences'
import TimeStrip from '@/timeline/TimeStrip.vue'
import { useStage } from '@/view3d/stage'
import { useShortcuts } from './shortcuts'
import KeySheet from './KeySheet.vue'
import GuidedRound from './GuidedRound.vue'
import PreferencesDialog from './PreferencesDialog.vue'
import FindField from './FindField.vue'
import SceneFacts from './SceneFacts.vue'
import AlternateFrame from './AlternateFrame.vue'
import AlternatesLeaf from './AlternatesLeaf.vue'
import PastBanner from './PastBanner.vue'
import StatusLine from './StatusLine.vue'
import TopBar from './TopBar.vue'
import { lengthUnit } from '@/ui/lengths'
import type { Footage } from '@/core/bridge'
import { perSecond } from '@/ui/rates'

const props = defineProps<{ sceneId: string; desk?: Desk }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const people = usePeople()
const alternates = useAlternates()
const router = useRouter()
const route = useRoute()
const stage = useStage()
const back = ref<HTMLElement | null>(null)
const strip = ref<InstanceType<typeof TimeStrip> | null>(null)
/** What is open over the desks. */
const over = ref<'help' | 'find' | 'facts' | 'preferences' | 'round' | ''>('')
const open = (what: typeof over.value) => scene.loaded && (over.value = what)
const sizes = useLocalStorage('proscen.strip', { height: 200 })
watchEffect(() => document.documentElement.style.setProperty('--strip', `${sizes.value.height}px`))
const list = useShortcuts(() => strip.value, {
  help: () => open('help'),
  find: () => open('find'),
  facts: () => open('facts'),
  preferences: () => open('preferences'),
  round: () => open('round'),
})
const fetched = {
  dress: () => import('@/desks/dress/DressDesk.vue'),
  frame: () => import('@/desks/frame/FrameDesk.vue'),
  splice: () => import('@/desks/splice/SpliceDesk.vue'),
  turnover: () => import('@/desks/turnover/TurnoverDesk.vue'),
}
const SideBySide = defineAsyncComponent(() => import('@/beside/SideBySide.vue'))
const pages = {
  dress: defineAsyncComponent(fetched.dress),
  frame: defineAsyncComponent(fetched.frame),
  splice: defineAsyncComponent(fetched.splice),
  turnover: defineAsyncComponent(fetched.turnover),
}
// The desk is fetched while the core and the scene are; one that fails is asked for again when it is shown.
fetched[props.desk ?? 'dress']().catch(() => {})

watch(
  () => props.sceneId,
  (id) => scene.load(id),
  { immediate: true },
)
watch(
  () => props.desk,
  (d) => (view.desk = d ?? 'dress'),
  { immediate: true },
)
watch(
  () => scene.id,
  () => {
    stage.forgetBeside()
    stage.stills.clear()
    stage.planes.clear()
  },
)
// What single shots have for themselves, and alternates that are looked at, are beside what is worked in.
watch(
  [() => scene.layer, () => alternates.apart, () => scene.differed],
  () => {
    stage.worked = { alternate: scene.alternate, shot: scene.onlyIn }
    stage.apart = alternates.apart
    stage.outdateBeside()
  },
  { immediate: true },
)
watch(
  () => scene.pictured,
  () => scene.loaded && stage.rebuild(),
)
watch(
  () => scene.loaded,
  (loaded) => {
    if (!loaded) return
    stage.rebuild()
    head.setScreen(0)
    stage.evaluate(head.story)
    document.title = `${scene.doc.settings.title} · Proscen`
    if (route.query.round !== undefined) open('round')
  },
)
watch(
  () => head.story,
  (f) => scene.loaded && stage.evaluate(f),
)
watch([() => head.onAir, () => view.through, () => view.desk], () => stage.invalidate())
// Following somebody leads from desk to desk, and ends with what is done here.
watch(
  () => people.wanted,
  (desk) => {
    if (!desk) return
    people.wanted = null
    void router.replace(`/scenes/${scene.id}/${desk}`)
  },
)
useEventListener(
  window,
  ['pointerdown', 'keydown', 'wheel'],
  (e) => {
    if (people.followed && !(e.target as HTMLElement).closest?.('.people, .following')) people.ownWay()
  },
  { capture: true, passive: true },
)
useEventListener(window, 'resize', () => stage.invalidate())
// What waits outlives the tab, unless the browser has no place for it.
useEventListener(window, 'beforeunload', (e) => {
  if (scene.saved !== 'saved' && !scene.kept()) e.preventDefault()
})
onBeforeUnmount(() => {
  head.stop()
  scene.leave()
})
const preferences = usePreferences()
watchEffect(() => {
  lengthUnit.value = (preferences.lengths || scene.doc.settings.lengths) === 'feet' ? 'ft' : 'm'
})
watchEffect(() => {
  stage.plainly = preferences.pictures === 'plain'
})
stage.stills.cardOf = (id) => scene.doc.cards[id]
/** Seconds of a file that go by in a second: its speed, and what its rate and the scene's make of it. */
const paceOf = (f: Footage | undefined, speed: number) =>
  (head.speed * speed * scene.rate * (f?.pace || 1)) / (f?.rate ? perSecond(f.rate) : scene.rate)
stage.stills.paceOf = (shot) => {
  const s = scene.shotOf(shot)
  return paceOf(scene.doc.footage[s?.footage ?? ''], s?.speed ?? 1)
}
stage.planes.paceOf = (node) => {
  const shot = head.clock === 'screen' ? scene.shotOf(head.airShot) : undefined
  return paceOf(scene.doc.nodes[node]?.screen?.film, shot?.speed ?? 1)
}
watch(
  () => [!!scene.doc.settings.blur, scene.rate] as const,
  ([blur, rate]) => {
    stage.blur = blur
    stage.stills.rate = rate
    stage.invalidate()
  },
  { immediate: true },
)
onMounted(() => back.value!.append(stage.canvas))
</script>
<template>
  <div ref="back" class="back" aria-hidden="true"></div>
  <div class="shell" :class="{ 'has-full': view.full, 'has-leaf': view.history || view.alternates }">
    <TopBar @help="open('help')" @find="open('find')" @facts="open('facts')" />
    <SceneFacts v-if="over === 'facts'" @close="over = ''" />
    <PreferencesDialog v-if="over === 'preferences'" :commands="list" @close="over = ''" />
    <GuidedRound v-if="over === 'round'" @close="over = ''" />
    <FindField v-if="over === 'find'" :commands="list" @close="over === 'find' && (over = '')" />
    <div v-if="scene.failure" class="desk fail">
      <p>{{ scene.failure }}</p>
      <button class="act" @click="scene.load(props.sceneId)">Try again</button>
      <router-link to="/">All scenes</router-link>
    </div>
    <div v-else-if="!scene.loaded" class="desk fail"><el-skeleton :rows="6" animated style="width: 420px" /></div>
    <PastBanner v-if="scene.past && scene.loaded" />
    <div v-else-if="stage.trouble.value && scene.loaded" class="banner" role="alert">{{ stage.trouble.value }}</div>
    <div v-else-if="people.leader" class="banner following" role="status" :style="{ '--person': people.leader.color }">
      Following {{ people.leader.name }}
      <button class="act" @click="people.ownWay()">Stop</button>
    </div>
    <main v-if="scene.loaded && !scene.failure" class="desk">
      <el-splitter layout="vertical" class="split" @resize="stage.invalidate()">
        <el-splitter-panel :min="180"
          ><SideBySide v-if="view.beside && !scene.past" /><component :is="pages[view.desk]" v-else
        /></el-splitter-panel>
        <el-splitter-panel v-model:size="sizes.height" :min="110" :max="420"
          ><TimeStrip ref="strip"
        /></el-splitter-panel>
      </el-splitter>
    </main>
    <AlternateFrame v-if="scene.loaded" />
    <AlternatesLeaf v-if="scene.loaded" v-model="view.alternates" />
    <StatusLine v-if="scene.loaded" />
    <KeySheet v-if="over === 'help'" @close="over === 'help' && (over = '')" @open="open" />
  </div>
</template>
<style scoped>
.back {
  position: fixed;
  inset: 0;
  z-index: 0;
}
.shell {
  position: relative;
  z-index: 1;
  display: grid;
  grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr);
  height: 100vh;
}
.has-leaf .banner {
  left: calc(50% - 176px); /* beside the leaf */
}
.desk {
  position: relative;
}
.fail {
  padding: 40px;
}
</style>
