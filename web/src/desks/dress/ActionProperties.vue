<script setup lang="ts">
// One thing that somebody does: when, which way, with whom.
import { computed } from 'vue'
import { core, type Action, type Merge, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import { useStage } from '@/view3d/stage'
import { deedWords } from '@/ui/words'
import { useSubjects } from '../useSubjects'
import { allInWords, inWords } from '@/ui/lengths'

const props = defineProps<{ action: string }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const stage = useStage()
const { subjects, cast, things } = useSubjects()
const a = computed(() => scene.doc.actions[props.action])
const who = computed(() => scene.doc.nodes[a.value?.cast ?? '']?.name ?? '')
const goes = computed(() => a.value?.do === 'walk' || a.value?.do === 'run')
const way = computed(() => (void scene.changes, goes.value ? core.way('actions', props.action) : null))
const needsFace = computed(() => ['stand', 'walk', 'run', 'look', 'point', 'reach'].includes(a.value?.do ?? ''))
const clips = computed(() => scene.doc.models[scene.doc.nodes[a.value?.cast ?? '']?.model ?? '']?.clips ?? [])
const needsThing = computed(() => ['take', 'give', 'put'].includes(a.value?.do ?? ''))

function set(merge: Merge<Action>, what: string, live = false) {
  const label = `change ${what} of ${who.value}'s ${deedWords[a.value!.do]}`
  const args = { collection: 'actions', id: props.action, merge, label } as const
  if (live) scene.preview('set', args)
  else scene.run('set', args)
}
function time(edge: 'in' | 'out', frame: number) {
  scene.run('actionTime', { ids: [props.action], edge, by: Math.round(frame - a.value![edge]) })
}
const lasts = (seconds: number) => scene.run('actionTime', { ids: [props.action], lasts: seconds })
const ease = computed<[number, number]>(() => a.value?.ease ?? [12, 12])
function setEase(i: number, v: number) {
  const next: [number, number] = [...ease.value]
  next[i] = Math.max(0, Math.round(v))
  set({ ease: next }, 'ease')
}
/** Takes the tape's end, or else the place of the selection's front, as the place. */
function placeHere() {
  const at = view.tape?.to ?? (stage.position(a.value!.cast)?.add({ x: 0, y: 0.8, z: 0 }).toArray() as Vec3)
  set({ at }, 'place')
}
function remove() {
  if (scene.run('remove', { collection: 'actions', ids: [props.action] })) view.select('actions', '')
}
</script>
<template>
  <section v-if="a" class="props" aria-label="Action">
    <header class="head">
      <button class="link" @click="view.select('nodes', a.cast)">{{ who }}</button>
      <span>{{ deedWords[a.do] }}</span>
    </header>
    <div class="body">
      <h3>When</h3>
      <NumberField label="First frame" :digits="0" :step="1" :value="a.in" @change="time('in', $event)" />
      <NumberField label="Last frame" :digits="0" :step="1" :value="a.out - 1" @change="time('out', $event + 1)" />
      <NumberField label="Duration" unit="s" :value="(a.out - a.in) / scene.rate" @change="lasts" />
      <div class="row">
        <button class="act" title="Go to its first frame" @click="head.set(a.in)">To its start</button>
      </div>
      <template v-if="goes && way">
        <h3>Path and speed</h3>
        <label class="pick"
          >Path
          <select
            :value="a.path"
            aria-label="Path"
            @change="set({ path: ($event.target as HTMLSelectElement).value }, 'path')"
          >
            <option v-for="(p, id) in scene.doc.paths" :key="id" :value="id">{{ p.name }}</option>
          </select></label
        >
        <NumberField
          label="Speed"
          unit="m/s"
          :value="way.speed"
          @change="scene.run('actionTime', { ids: [props.action], speed: $event })"
        />
        <NumberField
          label="Begins at"
          unit="m"
          :value="a.start ?? 0"
          @change="set({ start: Math.max(0, $event) || null }, 'start')"
        />
        <NumberField
          label="Ends at"
          unit="m"
          :value="a.end ?? way.length + (a.start ?? 0)"
          @change="set({ end: $event }, 'end')"
        />
        <NumberField label="Sets off in" unit="f" :digits="0" :value="ease[0]!" @change="setEase(0, $event)" />
        <NumberField label="Stops in" unit="f" :digits="0" :value="ease[1]!" @change="setEase(1, $event)" />
        <dl class="figures">
          <dt>Length</dt>
          <dd>{{ inWords(way.length) }}</dd>
        </dl>
        <div class="row">
          <button
            class="act"
            :aria-pressed="!!a.reverse"
            @click="set({ reverse: a.reverse ? null : true }, 'direction')"
          >
            Other way round
          </button>
          <button class="act" @click="set({ do: a.do === 'walk' ? 'run' : 'walk' }, 'pace')">
            {{ a.do === 'walk' ? 'Run instead' : 'Walk instead' }}
          </button>
        </div>
      </template>
      <label v-if="a.do === 'clip'" class="pick"
        >Clip
        <select
          :value="a.clip"
          aria-label="Clip"
          @change="set({ clip: ($event.target as HTMLSelectElement).value }, 'clip')"
        >
          <option v-for="c in clips" :key="c.name" :value="c.name">{{ c.name }} ({{ c.seconds.toFixed(1) }} s)</option>
        </select></label
      >
      <template v-if="a.do === 'sit'">
        <h3>Seat</h3>
        <NumberField label="Height" unit="m" :value="a.seat ?? 0.46" @change="set({ seat: $event }, 'seat')" />
      </template>
      <template v-if="a.do === 'turn'">
        <h3>Heading</h3>
        <NumberField
          label="Pan"
          unit="°"
          :digits="0"
          :step="1"
          :value="a.turn ?? 0"
          @change="set({ turn: $event }, 'heading')"
        />
      </template>
      <label v-if="needsThing" class="pick"
        >Thing
        <select
          :value="a.on"
          aria-label="Thing"
          @change="set({ on: ($event.target as HTMLSelectElement).value }, 'thing')"
        >
          <option v-for="s in things" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
      <label v-if="a.do === 'ride'" class="pick"
        >On
        <select
          :value="a.on ?? ''"
          aria-label="On"
          @change="set({ on: ($event.target as HTMLSelectElement).value || null }, 'carrier')"
        >
          <option value="">what carries it anyway</option>
          <option v-for="s in subjects" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
      <label v-if="a.do === 'give' || a.do === 'take'" class="pick"
        >{{ a.do === 'give' ? 'To' : 'From' }}
        <select
          :value="a.with ?? ''"
          aria-label="With"
          @change="set({ with: ($event.target as HTMLSelectElement).value || null }, 'partner')"
        >
          <option v-if="a.do === 'take'" value="">where it lies</option>
          <option v-for="s in cast.filter((c) => c.id !== a!.cast)" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
      <label v-if="needsFace" class="pick"
        >{{ a.do === 'reach' ? 'Reaches for' : a.do === 'point' ? 'Points at' : 'Looks at' }}
        <select
          :value="a.face ?? ''"
          aria-label="Looks at"
          @change="set({ face: ($event.target as HTMLSelectElement).value || null }, 'look')"
        >
          <option v-if="!['look', 'point', 'reach'].includes(a.do)" value="">nothing</option>
          <option v-for="s in subjects.filter((c) => c.id !== a!.cast)" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
      <template v-if="a.do === 'put'">
        <p class="note">
          {{ a.at ? `It is put down at ${allInWords(a.at, ', ')}.` : 'It is put down where the hand is.' }}
          Measure to a place, then take it over.
        </p>
        <div class="row">
          <button class="act" :disabled="!view.tape" @click="placeHere">Put it at the tape's end</button>
        </div>
      </template>
      <label v-if="['point', 'reach', 'wave', 'take', 'give', 'put'].includes(a.do)" class="pick"
        >Hand
        <select
          :value="a.hand ?? 'right'"
          aria-label="Hand"
          @change="set({ hand: ($event.target as HTMLSelectElement).value as Action['hand'] }, 'hand')"
        >
          <option value="right">right</option>
          <option value="left">left</option>
        </select></label
      >
      <div class="row"><button class="act" @click="remove">Remove</button></div>
    </div>
  </section>
</template>
