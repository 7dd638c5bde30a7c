<script setup lang="ts">
// What a scene has once: its title, rate, clocks, formats and units.
import { computed, ref } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead, type ClockName } from '@/stores/playhead'
import { useLibrary } from '@/stores/library'
import { useScene } from '@/stores/scene'
import NumberField from '@/ui/NumberField.vue'
import { perSecond, rateName } from '@/ui/rates'
import { sentence } from '@/ui/sentence'
import FormatsTable from './FormatsTable.vue'

defineEmits<{ close: []; facts: [] }>()
const scene = useScene()
const library = useLibrary()
void library.load()
const head = usePlayhead()
const settings = computed(() => scene.doc.settings)
const assembly = computed(() => scene.doc.assemblies[scene.cut.assembly])
const set = (merge: object, label: string) => scene.run('set', { collection: 'settings', id: 'settings', merge, label })

function rename(e: Event) {
  const field = e.target as HTMLInputElement
  const title = field.value.trim()
  if (!title || title === settings.value.title || !set({ title }, `name the scene ${title}`))
    field.value = settings.value.title
}

// Another rate is chosen first, and then what of the scene stays.
const offered = core.offered()
const asked = ref(settings.value.rate) // as it was typed
const at = computed(() => {
  void scene.changes
  return core.atRate(asked.value)
})
const rate = computed(() => at.value.rate ?? settings.value.rate)
const drop = ref(!!settings.value.drop)
const changed = computed(() => rate.value !== settings.value.rate)
const seconds = (frames: number, rate: string) => `${(frames / perSecond(rate)).toFixed(2)} s`
function chooseRate(typed: string) {
  asked.value = typed
  drop.value = changed.value ? !!at.value.drops : !!settings.value.drop
}
function leaveRate() {
  asked.value = settings.value.rate
  drop.value = !!settings.value.drop
}
function changeRate(keep: 'seconds' | 'frames') {
  const time = head.frame / scene.rate
  scene.run('rateChange', { rate: rate.value, keep, drop: drop.value })
  if (keep === 'seconds') head.set(Math.round(time * scene.rate))
  leaveRate()
}
function countDrop(on: boolean) {
  drop.value = on
  if (changed.value) return
  scene.run('rateChange', { rate: settings.value.rate, keep: 'frames', drop: on })
  leaveRate()
}

const wrongTime = ref('')
/** Sets what the timecode of a clock says at its first frame. */
function begin(clock: ClockName, e: Event) {
  const field = e.target as HTMLInputElement
  const key = clock === 'story' ? 'storyStart' : 'screenStart'
  const t = core.parseTimecode(clock, field.value)
  const start = (settings.value[key] ?? 0) + (t.frame ?? 0)
  wrongTime.value = t.error ?? (start < 0 ? 'A clock begins at 00:00:00:00 or later.' : '')
  if (!wrongTime.value && t.frame) set({ [key]: start }, `let ${clock} time begin at ${field.value}`)
  field.value = core.timecode(clock, 0)
}
const story = (r: { in: number; out: number }) =>
  set({ story: { in: Math.round(r.in), out: Math.round(r.out) } }, 'change the story range')
</script>
<template>
  <el-dialog :model-value="true" title="Scene settings" width="640" append-to-body @close="$emit('close')">
    <div class="settings">
      <label class="row"
        ><span>Title</span>
        <input v-typed class="text" :value="settings.title" aria-label="Scene title" maxlength="200" @change="rename" />
      </label>
      <div class="row">
        <span>Rate</span>
        <div class="line">
          <el-select
            :model-value="rate"
            size="small"
            filterable
            allow-create
            default-first-option
            aria-label="Rate"
            class="rate"
            @change="chooseRate"
          >
            <el-option
              v-for="r in [...new Set([...offered.rates, settings.rate, rate])]"
              :key="r"
              :value="r"
              :label="`${rateName(r)} f/s`"
            />
          </el-select>
          <el-checkbox
            v-if="at.drops"
            size="small"
            :model-value="drop"
            label="drop-frame timecode"
            @change="countDrop(!!$event)"
          />
        </div>
      </div>
      <p v-if="at.error" role="alert" class="why">{{ sentence(at.error) }}</p>
      <div v-if="changed" class="change" role="group" aria-label="Change of rate">
        <p>From {{ rateName(settings.rate) }} to {{ rateName(rate) }} frames a second. What stays?</p>
        <button class="act main" @click="changeRate('seconds')">
          Keep seconds<small>{{ settings.story.out - settings.story.in }} f become {{ at.frames }} f</small>
        </button>
        <button class="act" @click="changeRate('frames')">
          Keep frames<small
            >{{ seconds(settings.story.out - settings.story.in, settings.rate) }} become
            {{ seconds(settings.story.out - settings.story.in, rate) }}</small
          >
        </button>
        <button class="act" @click="leaveRate">Leave it</button>
      </div>
      <div class="row">
        <span>Clocks begin at</span>
        <div class="line">
          <label class="story"
            >◷
            <input
              v-typed
              class="code"
              :value="core.timecode('story', 0)"
              :key="`s${settings.storyStart}${settings.rate}${settings.drop}`"
              aria-label="Story time begins at"
              @change="begin('story', $event)"
          /></label>
          <label class="screen"
            >▷
            <input
              v-typed
              class="code"
              :value="core.timecode('screen', 0)"
              :key="`p${settings.screenStart}${settings.rate}${settings.drop}`"
              aria-label="Screen time begins at"
              @change="begin('screen', $event)"
          /></label>
        </div>
      </div>
      <p v-if="wrongTime" role="alert" class="why">{{ wrongTime }}</p>
      <div class="row">
        <span>Story range</span>
        <div class="line">
          <NumberField
            label="First"
            unit="f"
            :digits="0"
            :rate="scene.rate"
            :value="settings.story.in"
            @change="story({ ...settings.story, in: $event })"
          />
          <NumberField
            label="Last"
            unit="f"
            :digits="0"
            :rate="scene.rate"
            :disabled="settings.follow"
            :value="settings.story.out - 1"
            @change="story({ ...settings.story, out: $event + 1 })"
          />
          <NumberField
            label="Length"
            unit="f"
            :digits="0"
            :rate="scene.rate"
            :disabled="settings.follow"
            :value="settings.story.out - settings.story.in"
            @change="story({ ...settings.story, out: settings.story.in + $event })"
          />
        </div>
        <span></span>
        <div class="line">
          <el-checkbox
            size="small"
            :model-value="!!settings.follow"
            label="ends with the action"
            @change="set({ follow: !!$event }, $event ? 'let the story end with the action' : 'fix the story range')"
          />
          <span class="dim">{{ seconds(settings.story.out - settings.story.in, settings.rate) }}</span>
        </div>
      </div>
      <div class="row">
        <span>Running time wanted</span>
        <div class="line">
          <NumberField
            label="Assembly"
            unit="f"
            :digits="0"
            :rate="scene.rate"
            :disabled="!assembly"
            :value="assembly?.target ?? 0"
            @change="scene.run('assemblySet', { id: scene.cut.assembly, target: Math.max(0, Math.round($event)) })"
          />
          <span class="dim">{{ assembly?.target ? seconds(assembly.target, settings.rate) : 'none' }}</span>
        </div>
      </div>
      <div class="row">
        <span>Lengths in</span>
        <el-radio-group
          :model-value="settings.lengths ?? 'metres'"
          size="small"
          aria-label="Lengths in"
          @change="set({ lengths: $event === 'feet' ? 'feet' : null }, `show lengths in ${$event}`)"
        >
          <el-radio-button value="metres" label="metres" /><el-radio-button value="feet" label="feet" />
        </el-radio-group>
      </div>
      <div class="row">
        <span>Picture</span>
        <el-checkbox
          size="small"
          :model-value="!!settings.blur"
          label="with the blur of lenses, in views and in what is delivered"
          @change="set({ blur: $event ? true : null }, $event ? 'show the blur of lenses' : 'show all sharp')"
        />
      </div>
      <div class="row">
        <span>Shutter</span>
        <div class="line">
          <NumberField
            label="Open"
            unit="°"
            :digits="0"
            :value="settings.shutter ?? 0"
            @change="set({ shutter: $event || null }, 'set the shutter')"
          />
          <span class="dim" title="Degrees of 360 for each frame">what moves blurs in fine pictures; 0 for none</span>
        </div>
      </div>
      <FormatsTable deliver />
      <p class="more">
        <button class="link" @click="$emit('facts')">Facts of the scene: counts, files, what nothing uses</button>
        <router-link v-if="library.id" :to="`/productions/${library.id}`"
          >What {{ settings.production }} shares</router-link
        >
      </p>
    </div>
  </el-dialog>
</template>
<style scoped>
.settings {
  display: grid;
  gap: 10px;
  max-height: 66vh;
  overflow: auto;
}
.row {
  display: grid;
  grid-template-columns: 132px minmax(0, 1fr);
  gap: 6px 10px;
  align-items: center;
}
.row > span:first-child {
  color: var(--dim);
  font: 12px var(--font-condensed);
  text-align: left;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.line > .field {
  width: 146px;
}
.rate {
  width: 128px;
}
.text,
.code {
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: inherit;
  font: 12px var(--font);
}
.text {
  width: 100%;
}
.code {
  width: 112px;
  font-family: var(--font-mono);
}
.story {
  color: var(--sand);
}
.screen {
  color: var(--sky);
}
.change {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 10px 12px;
  border: 1px solid var(--brass);
  border-radius: 6px;
}
.change p {
  flex: 1;
  margin: 0;
}
.change small {
  display: block;
  opacity: 0.75;
  font: 11px var(--font-condensed);
}
.change .act {
  height: auto;
  display: block;
  padding: 4px 10px;
}
.why {
  margin: 0;
  color: var(--warning);
}
.more {
  display: flex;
  justify-content: space-between;
  margin: 0;
}
.dim {
  color: var(--dim);
  font: 12px var(--font-mono);
}
</style>
