<script setup lang="ts">
// A shot on both clocks: what it shows, how fast, its handles, how it begins,
// and what is done with it.
import { useTip } from '@/stores/keys'
import { Copy, Lock, LockOpen, Square } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed } from 'vue'
import { upload, type KeptImage } from '@/api/uploads'
import { core, ownLight, storyOut, type Card, type Merge, type Shot } from '@/core/bridge'
import { useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'
import { useView } from '@/stores/view'
import { useCutActions } from '@/timeline/useCutActions'
import CameraBadge from '@/ui/CameraBadge.vue'
import DifferFields from '@/ui/DifferFields.vue'
import LightFields from '@/ui/LightFields.vue'
import NumberField from '@/ui/NumberField.vue'
import JoinPart from './JoinPart.vue'

const tip = useTip()

const scene = useScene()
const view = useView()
const head = usePlayhead()
const cutting = useCutting()
const actions = useCutActions()
const id = computed(() => view.shot || (scene.doc.shots[head.airShot] ? head.airShot : ''))
const ids = computed(() => (view.shots.length ? view.shots : [id.value]))
const shot = computed(() => scene.doc.shots[id.value])
const camera = computed(() => (shot.value?.plays ? undefined : scene.doc.nodes[shot.value?.camera ?? '']))
const frames = computed(() => (shot.value ? shot.value.screenOut - shot.value.screenIn : 0))
const main = computed(() => shot.value?.lane === scene.cut.lane)
const set = (change: Partial<Shot>, what: string) => scene.run('shotSet', { ids: ids.value, change, what })
function light(change: Partial<Shot>, live = false) {
  const args = { ids: ids.value, change, what: 'light' }
  if (live) scene.preview('shotSet', args)
  else scene.run('shotSet', args)
}
const lit = computed(() => !!shot.value && !!ownLight(shot.value))
const asTheScene = () => light({ exposure: 0, tint: '', haze: 0, hour: 0 })
function trim(edge: 'in' | 'out', by: number, ripple: boolean) {
  if (by) scene.run('shotTrim', { id: id.value, edge, by, ripple })
}
const plays = computed(() => {
  const s = shot.value!
  return s.plays === 'card' ? `card:${s.card}` : s.plays === 'footage' ? `footage:${s.footage}` : (s.plays ?? 'camera')
})
function play(what: string) {
  const [kind, of] = what.split(':') as [string, string | undefined]
  if (kind === 'camera') {
    const c = shot.value!.camera || head.airCamera || scene.wall[0]?.id
    return set({ camera: c, plays: '' as Shot['plays'] }, 'picture')
  }
  set(
    { plays: kind as Shot['plays'], card: kind === 'card' ? of : '', footage: kind === 'footage' ? of : '' },
    'picture',
  )
}
function speed(v: number, story: boolean) {
  scene.run('shotSpeed', { ids: ids.value, speed: v, story })
}
const statuses = { '': '–', idea: 'idea', blocked: 'blocked out', agreed: 'agreed' }
const card = computed(() => (shot.value?.plays === 'card' ? scene.doc.cards[shot.value.card ?? ''] : undefined))
function setCard(merge: Merge<Card>) {
  scene.run('set', { collection: 'cards', id: shot.value!.card!, merge, label: 'change a card' })
}
async function cardPicture(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    setCard(await upload<KeptImage>('images', file))
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true })
  }
}
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>
<template>
  <div v-if="shot" class="body">
    <header class="line">
      <CameraBadge v-if="camera?.camera" :number="camera.camera.number" :color="camera.camera.color" :size="24" />
      <input
        v-typed
        class="rename number"
        :value="shot.number"
        aria-label="Shot number"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="set({ number: value($event) }, 'number')"
      />
      <input
        v-typed
        class="rename"
        :value="shot.name ?? ''"
        placeholder="name"
        aria-label="Shot name"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="set({ name: value($event) }, 'name')"
      />
      <button
        class="icon"
        :aria-label="shot.locked ? 'Unlock the shot' : 'Lock the shot'"
        :title="shot.locked ? 'Unlock the shot' : 'Lock the shot: it can only be carried along'"
        :aria-pressed="!!shot.locked"
        @click="set({ locked: !shot.locked }, shot.locked ? 'unlock' : 'lock')"
      >
        <Lock v-if="shot.locked" :size="14" /><LockOpen v-else :size="14" />
      </button>
    </header>
    <DifferFields collection="shots" :id="id" />
    <p v-if="ids.length > 1" class="note">{{ ids.length }} shots are selected; changes go to all of them.</p>
    <label class="pick"
      >plays
      <select :value="plays" aria-label="Shot plays" @change="play(value($event))">
        <option value="camera">its camera</option>
        <option value="board">its boards</option>
        <option v-for="(c, k) in scene.doc.cards" :key="k" :value="`card:${k}`">card {{ c.title || c.name }}</option>
        <option v-for="(f, k) in scene.doc.footage" :key="k" :value="`footage:${k}`">footage {{ f.name }}</option>
      </select></label
    >
    <label class="pick"
      >camera
      <select :value="shot.camera" aria-label="Shot camera" @change="set({ camera: value($event) }, 'camera')">
        <option v-if="!shot.camera" value="">none yet</option>
        <option
          v-for="c in scene.cameras.filter((c) => !c.camera.archived || c.id === shot!.camera)"
          :key="c.id"
          :value="c.id"
        >
          {{ c.camera.number }} {{ c.node.name }}
        </option>
      </select></label
    >
    <template v-if="card">
      <h3>Card</h3>
      <input
        v-typed
        class="wide"
        :value="card.title"
        placeholder="title"
        aria-label="Title of the card"
        @keydown.stop
        @change="setCard({ title: value($event) })"
      />
      <input
        v-typed
        class="wide"
        :value="card.text"
        placeholder="text"
        aria-label="Text of the card"
        @keydown.stop
        @change="setCard({ text: value($event) })"
      />
      <div class="row">
        <label class="check"
          >ground
          <input
            type="color"
            aria-label="Ground of the card"
            :value="card.color"
            @change="setCard({ color: value($event) })"
        /></label>
        <label class="check"
          >ink
          <input type="color" aria-label="Ink of the card" :value="card.ink" @change="setCard({ ink: value($event) })"
        /></label>
        <label class="act file"
          >{{ card.blob ? 'Other picture…' : 'Picture…' }}
          <input
            type="file"
            accept="image/png,image/jpeg,image/webp,image/tiff"
            aria-label="Picture of the card"
            @change="cardPicture"
        /></label>
        <button v-if="card.blob" class="act" @click="setCard({ blob: null, width: null, height: null })">
          No picture
        </button>
      </div>
    </template>
    <h3 class="screen">▷ Screen time</h3>
    <dl class="figures">
      <dt>First frame</dt>
      <dd>{{ shot.screenIn }} · {{ core.timecode('screen', shot.screenIn) }}</dd>
      <dt>Last frame</dt>
      <dd>{{ shot.screenOut - 1 }} · {{ core.timecode('screen', shot.screenOut - 1) }}</dd>
    </dl>
    <NumberField
      label="Length, later shots follow"
      unit="f"
      :digits="0"
      :step="0.5"
      :rate="scene.rate"
      :value="frames"
      @change="trim('out', Math.round($event) - frames, true)"
    />
    <p class="note">{{ (frames / scene.rate).toFixed(2) }} seconds</p>
    <h3 class="story">◷ Story time</h3>
    <dl class="figures">
      <dt>Shows</dt>
      <dd>
        {{ +shot.storyIn.toFixed(2) }}–{{ +(shot.speed ? storyOut(shot) - shot.speed : shot.storyIn).toFixed(2) }}
      </dd>
    </dl>
    <NumberField
      label="Begins at"
      unit="f"
      :digits="0"
      :step="0.5"
      :rate="scene.rate"
      :value="shot.storyIn"
      @change="set({ storyIn: Math.round($event) }, 'story range')"
    />
    <NumberField label="Speed" unit="×" :step="0.005" :value="shot.speed" @change="speed($event, false)" />
    <div class="row tight">
      <button class="act" title="Half the speed, the same story: twice as long" @click="speed(shot.speed / 2, true)">
        Half the story
      </button>
      <button class="act" title="Twice the speed, the same story: half as long" @click="speed(shot.speed * 2, true)">
        Twice the story
      </button>
      <button class="act" title="Back to normal speed" :disabled="shot.speed === 1" @click="speed(1, false)">1×</button>
      <button
        class="act"
        :title="tip('Hold the frame at the playhead for a second', 'hold the frame at the playhead')"
        @click="actions.freeze()"
      >
        <Square :size="13" /> Hold
      </button>
    </div>
    <JoinPart v-if="main" :shot="id" />
    <h3>Handles</h3>
    <div class="two">
      <NumberField
        label="Head"
        unit="f"
        :digits="0"
        :value="shot.head ?? 0"
        @change="set({ head: Math.max(0, Math.round($event)) }, 'head')"
      />
      <NumberField
        label="Tail"
        unit="f"
        :digits="0"
        :value="shot.tail ?? 0"
        @change="set({ tail: Math.max(0, Math.round($event)) }, 'tail')"
      />
    </div>
    <template v-if="!shot.plays">
      <h3>Light in this shot</h3>
      <LightFields
        whose="the shot"
        :exposure="shot.exposure"
        :tint="shot.tint"
        @exposure="(v, live) => light({ exposure: v }, live)"
        @tint="light({ tint: $event })"
        @cancel="scene.cancel()"
      />
      <NumberField
        label="Haze, 0 as the scene"
        unit="m"
        :digits="0"
        :step="2"
        :value="shot.haze ?? 0"
        @drag="light({ haze: Math.max(0, $event) }, true)"
        @cancel="scene.cancel()"
        @change="light({ haze: Math.max(0, $event) })"
      />
      <NumberField
        v-if="scene.doc.settings.sun.clock"
        label="Hour, 0 as the scene"
        unit="h"
        :digits="1"
        :step="0.05"
        :value="shot.hour ?? 0"
        @drag="light({ hour: Math.max(0, Math.min(24, $event)) }, true)"
        @cancel="scene.cancel()"
        @change="light({ hour: Math.max(0, Math.min(24, $event)) })"
      />
      <button v-if="lit" class="act below" title="Take the shot's own light away" @click="asTheScene">
        As the scene
      </button>
    </template>
    <h3>Shot</h3>
    <label class="pick"
      >status
      <select
        :value="shot.status ?? ''"
        aria-label="Status"
        @change="set({ status: value($event) as Shot['status'] }, 'status')"
      >
        <option v-for="(words, s) in statuses" :key="s" :value="s">{{ words }}</option>
      </select></label
    >
    <textarea
      v-typed
      class="wide"
      rows="2"
      :value="shot.notes ?? ''"
      placeholder="notes"
      aria-label="Notes"
      @keydown.stop
      @change="set({ notes: ($event.target as HTMLTextAreaElement).value }, 'notes')"
    ></textarea>
    <div class="row tight">
      <button class="act" :title="tip('A copy after it', 'copy the shot after itself')" @click="actions.duplicate()">
        <Copy :size="13" /> Copy
      </button>
      <button class="act" title="A copy on a spare lane" @click="actions.duplicate(true)">Copy to spare</button>
      <button
        v-if="!main || scene.cut.spares.length"
        class="act"
        :title="
          tip(main ? 'Put back what a spare shot replaced' : 'Play it in its place', 'try a spare shot, and back')
        "
        @click="actions.tryShot()"
      >
        {{ main ? 'Back' : 'Try in place' }}
      </button>
      <button
        class="act"
        :title="tip('Change places with the next shot, or two selected ones', 'swap with the next shot')"
        @click="actions.swap()"
      >
        Swap
      </button>
      <button
        class="act"
        :title="
          tip(
            `Lengthen to the playhead${cutting.grip === 'ripple' ? ', later shots follow' : ''}`,
            'lengthen the shot to the playhead',
          )
        "
        @click="actions.reach()"
      >
        To playhead
      </button>
      <button
        class="act"
        :title="tip('Leave a gap', 'remove; shots or a range leave a gap')"
        @click="scene.run('shotRemove', { ids, close: false }) && view.select('shots', '')"
      >
        Lift
      </button>
      <button
        class="act"
        :title="tip('Later shots close up', 'remove shots or a range and close up')"
        @click="scene.run('shotRemove', { ids, close: true }) && view.select('shots', '')"
      >
        Extract
      </button>
      <button
        class="act"
        :title="tip('Close the gap at the playhead', 'close the gap at the playhead')"
        @click="actions.closeGap()"
      >
        Close gap
      </button>
      <button
        class="act"
        title="Begin where the shot before ends in the story"
        @click="scene.run('shotFollowOn', { ids })"
      >
        Follow on
      </button>
    </div>
  </div>
  <div v-else class="empty">
    <p>No shot is here.</p>
    <p class="dim">Press a camera on the wall: it goes on air at the playhead. Or make shots of boards first.</p>
    <button class="act" @click="cutting.leaf = 'boards'">Boards…</button>
  </div>
</template>
<style scoped>
.line {
  display: flex;
  gap: 4px;
  align-items: center;
  margin: 6px 0;
}
.number {
  width: 52px;
  flex: none;
}
.two {
  display: grid;
  gap: 4px;
}
.wide {
  width: 100%;
  margin-top: 4px;
  padding: 3px 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font);
  resize: vertical;
}
.tight,
.below {
  margin-top: 6px;
}
.tight .act {
  padding: 0 7px;
}
</style>
