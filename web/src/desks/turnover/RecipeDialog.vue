<script setup lang="ts">
// A recipe, changed and kept in the production: the pack, handles, sound and lines,
// burn-ins that are placed by hand, and how files are called.
import { Plus, Trash2, X } from '@lucide/vue'
import { computed, ref } from 'vue'
import { core, type Recipe } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useTurnover } from '@/stores/turnover'
import NumberField from '@/ui/NumberField.vue'
import { rateName } from '@/ui/rates'
import { sentence } from '@/ui/sentence'
import { useDrag } from '@/ui/useDrag'
import { burnSays, nameSays, packs, passes, qualities, says, type Says } from './recipes'

const emit = defineEmits<{ close: [] }>()
const scene = useScene()
const turnover = useTurnover()
const id = turnover.known.id
const own = ref<Recipe>(JSON.parse(JSON.stringify(turnover.recipe)) as Recipe)
const busy = ref(false)
const { rates, shapes } = core.offered()

/** The shape that a mask leaves free, as its place among the offered ones; −1 for one of its own. */
const masked = computed(() => {
  const m = own.value.mask
  return m ? shapes.findIndex((f) => Math.abs(f.width / f.height / m.aspect - 1) < 1e-3) : 'no'
})
function mask(which: 'no' | number) {
  const f = which === 'no' ? undefined : shapes[which]
  own.value.mask = f && { aspect: f.width / f.height, dark: own.value.mask?.dark ?? 1 }
}
/** The free part of the picture by its sides. */
const free = computed(() => {
  const part = (own.value.mask?.aspect ?? 1) / shape.value
  return { width: `${Math.min(1, part) * 100}%`, height: `${Math.min(1, 1 / part) * 100}%` }
})

const burns = computed(() => own.value.burns ?? [])
const names = computed(() => own.value.names ?? [])
const order = computed(() => ({ ...turnover.order, each: true }))
const said = computed(() => {
  const t = core.burnTexts(order.value, own.value)
  return 'error' in t ? [] : t
})
const planned = computed(() => core.planned(order.value, own.value))
const example = computed(() => ('error' in planned.value ? '' : (planned.value.files[0]?.path.split('/').at(-1) ?? '')))
const wrong = computed(() => {
  const why = core.recipeWrong(own.value)
  return why && sentence(why)
})
const shape = computed(() => {
  const f = scene.doc.formats[turnover.theFormats[0] ?? '']
  return f ? f.width / f.height : 16 / 9
})
/** Whether there is no picture of the scene yet. */
const bare = ref(false)
const cover = computed(() => `/api/scenes/${scene.id}/picture`)

function burn(what: Says) {
  const n = burns.value.length
  own.value.burns = [
    ...burns.value,
    { says: what, x: (n % 3) / 2, y: n % 6 < 3 ? 0 : 1, ...(what === 'text' ? { text: 'our words' } : {}) },
  ]
}
const unburn = (i: number) => (own.value.burns = burns.value.filter((_, k) => k !== i))

// A burn-in is dragged where it is to be: shares of the room that is left beside it.
const frame = ref<HTMLElement | null>(null)
const held = ref(-1)
const drag = useDrag()
function place(i: number, e: PointerEvent) {
  const label = e.currentTarget as HTMLElement
  const box = frame.value!.getBoundingClientRect()
  const size = label.getBoundingClientRect()
  const grab = { x: e.clientX - size.left, y: e.clientY - size.top }
  const before = { ...burns.value[i]! }
  const share = (at: number, room: number) => Math.round(Math.min(1, Math.max(0, room > 0 ? at / room : 0)) * 100) / 100
  drag.begin(e, label, {
    move(m) {
      held.value = i
      const b = burns.value[i]
      if (!b) return
      b.x = share(m.clientX - grab.x - box.left, box.width - size.width)
      b.y = share(m.clientY - grab.y - box.top, box.height - size.height)
    },
    drop: () => (held.value = -1),
    abandon() {
      held.value = -1
      Object.assign(burns.value[i] ?? {}, before)
    },
  })
}
function nudge(i: number, e: KeyboardEvent) {
  const by: Record<string, [number, number]> = {
    ArrowLeft: [-0.02, 0],
    ArrowRight: [0.02, 0],
    ArrowUp: [0, -0.02],
    ArrowDown: [0, 0.02],
  }
  const b = burns.value[i]
  const way = by[e.key]
  if (!b || !way) return
  e.preventDefault()
  e.stopPropagation()
  b.x = Math.min(1, Math.max(0, Math.round((b.x + way[0]) * 100) / 100))
  b.y = Math.min(1, Math.max(0, Math.round((b.y + way[1]) * 100) / 100))
}

const addName = (what: Says) =>
  (own.value.names = [...names.value, { says: what, ...(what === 'text' ? { text: 'words' } : {}) }])
const dropName = (i: number) => (own.value.names = names.value.filter((_, k) => k !== i))
function moveName(i: number, by: -1 | 1) {
  const list = [...names.value]
  const [one] = list.splice(i, 1)
  list.splice(i + by, 0, one!)
  own.value.names = list
}
const whole = Math.round

async function keep(as: 'same' | 'new') {
  busy.value = true
  if (await turnover.keep({ ...own.value, name: own.value.name.trim() }, as === 'same' ? id : '')) emit('close')
  busy.value = false
}
async function forget() {
  busy.value = true
  if (await turnover.forget(id)) emit('close')
  busy.value = false
}
</script>
<template>
  <el-dialog :model-value="true" title="Recipe" width="860" top="6vh" append-to-body @close="$emit('close')">
    <div class="recipe">
      <div class="side">
        <label class="row"
          ><span>Name</span><input v-model="own.name" class="text" aria-label="Name of the recipe" maxlength="120"
        /></label>
        <label class="row"
          ><span>Packed as</span>
          <el-select v-model="own.pack" size="small" aria-label="Packed as">
            <el-option v-for="(p, k) in packs" :key="k" :value="k" :label="p.name" /> </el-select
        ></label>
        <div class="row">
          <span>Quality</span>
          <el-segmented v-model="own.quality" size="small" :options="['rough', 'check', 'fine']" aria-label="Quality" />
        </div>
        <p class="dim hint">{{ qualities[own.quality] }}</p>
        <div class="row">
          <span>Rate</span>
          <el-select
            :model-value="own.rate ?? 'scene'"
            size="small"
            aria-label="Rate of the files"
            @change="own.rate = $event === 'scene' ? undefined : $event"
          >
            <el-option value="scene" :label="`the scene's, ${rateName(scene.doc.settings.rate)} f/s`" />
            <el-option v-for="r in rates" :key="r" :value="r" :label="`${rateName(r)} f/s`" />
          </el-select>
        </div>
        <div class="pair">
          <NumberField
            label="size"
            unit="%"
            :digits="0"
            :value="Math.round((own.scale || 1) * 100)"
            @change="own.scale = $event / 100"
          />
          <NumberField label="slate" unit="f" :digits="0" :value="own.slate ?? 0" @change="own.slate = whole($event)" />
          <NumberField label="before" unit="f" :digits="0" :value="own.head ?? 0" @change="own.head = whole($event)" />
          <NumberField label="after" unit="f" :digits="0" :value="own.tail ?? 0" @change="own.tail = whole($event)" />
        </div>
        <el-radio-group
          :model-value="own.joined ? 'joined' : 'clean'"
          size="small"
          aria-label="Joins"
          class="stack"
          @change="own.joined = $event === 'joined'"
        >
          <el-radio value="clean">a shot is clean of its neighbours: its camera runs on</el-radio>
          <el-radio value="joined">a shot has its joins in it, as in the cut</el-radio>
        </el-radio-group>
        <el-checkbox v-model="own.sound" size="small" label="with sound, cut to the shot" />
        <label class="row"
          ><span>Lines</span>
          <el-select
            :model-value="own.lines || 'no'"
            size="small"
            aria-label="Lines"
            @change="own.lines = $event === 'no' ? undefined : $event"
          >
            <el-option value="no" label="left out" />
            <el-option value="picture" label="in the picture" />
            <el-option value="file" label="in a file beside it (SubRip)" /> </el-select
        ></label>
        <div class="row">
          <span>Mask</span>
          <el-select
            :model-value="masked"
            size="small"
            aria-label="Mask outside of another shape"
            @change="mask($event)"
          >
            <el-option value="no" label="none" />
            <el-option v-for="(f, i) in shapes" :key="i" :value="i" :label="f.name" />
            <el-option v-if="masked === -1" :value="-1" label="a shape of its own" />
          </el-select>
        </div>
        <div v-if="own.mask" class="pair">
          <NumberField
            label="shape"
            unit=":1"
            :digits="2"
            :value="own.mask.aspect"
            @change="own.mask.aspect = $event"
          />
          <NumberField
            label="dark"
            unit="%"
            :digits="0"
            :value="own.mask.dark * 100"
            @change="own.mask.dark = $event / 100"
          />
        </div>
        <div class="row">
          <span>Passes</span>
          <el-select
            :model-value="own.passes ?? []"
            multiple
            collapse-tags
            :max-collapse-tags="1"
            size="small"
            placeholder="the picture alone"
            aria-label="Passes beside the picture, as EXR pictures"
            @change="own.passes = $event.length ? $event : undefined"
          >
            <el-option v-for="(name, p) in passes" :key="p" :value="p" :label="name" />
          </el-select>
        </div>
        <div v-if="['png', 'jpeg', 'exr'].includes(own.pack) || own.passes?.length" class="row">
          <span>Numbers</span>
          <el-checkbox v-model="own.byStory" size="small" label="of the story's frames" />
        </div>
        <NumberField
          v-if="!own.byStory"
          label="first frame is called"
          :digits="0"
          :value="own.first ?? 1"
          @change="own.first = whole($event)"
        />
      </div>
      <div class="side">
        <h3>Burn-ins <span class="dim">drag them where they are to be</span></h3>
        <div ref="frame" class="frame" :style="{ aspectRatio: shape }">
          <img v-if="!bare" :src="cover" alt="" @error="bare = true" />
          <div v-if="own.mask" class="mask" :style="{ ...free, outlineColor: `rgb(0 0 0 / ${own.mask.dark})` }"></div>
          <div
            v-for="(b, i) in burns"
            :key="i"
            class="burn"
            :class="{ held: held === i }"
            role="button"
            tabindex="0"
            :aria-label="`Burn-in ${says[b.says]}; arrow keys move it`"
            :style="{
              left: `${b.x * 100}%`,
              top: `${b.y * 100}%`,
              transform: `translate(${-b.x * 100}%, ${-b.y * 100}%)`,
              fontSize: `${Math.max(3.4, (b.size || 0.03) * 100)}cqh`,
            }"
            @pointerdown="place(i, $event)"
            @keydown="nudge(i, $event)"
          >
            {{ said[i] || says[b.says] }}
          </div>
        </div>
        <ul class="pieces" aria-label="Burn-ins">
          <li v-for="(b, i) in burns" :key="i">
            <span v-if="b.says !== 'text'">{{ says[b.says] }}</span>
            <input v-else v-model="b.text" class="text" aria-label="Words of the burn-in" maxlength="200" />
            <NumberField
              label="letters"
              unit="%"
              :digits="1"
              :value="(b.size || 0.03) * 100"
              @change="b.size = $event / 100"
            />
            <button class="icon" :aria-label="`Remove the burn-in ${says[b.says]}`" title="Remove" @click="unburn(i)">
              <X :size="13" />
            </button>
          </li>
        </ul>
        <el-dropdown trigger="click" @command="burn($event)">
          <button class="act"><Plus :size="13" /> Burn-in</button>
          <template #dropdown>
            <el-dropdown-menu
              ><el-dropdown-item v-for="s in burnSays" :key="s" :command="s">{{ says[s] }}</el-dropdown-item>
            </el-dropdown-menu>
          </template>
        </el-dropdown>
        <h3>Names of files</h3>
        <ul class="pieces names" aria-label="Pieces of names">
          <li v-for="(n, i) in names" :key="i">
            <button class="icon" :disabled="!i" :aria-label="`${says[n.says]} earlier`" @click="moveName(i, -1)">
              ‹
            </button>
            <span v-if="n.says !== 'text'">{{ says[n.says] }}</span>
            <input v-else v-model="n.text" class="text short" aria-label="Words in names" maxlength="60" />
            <button
              class="icon"
              :disabled="i === names.length - 1"
              :aria-label="`${says[n.says]} later`"
              @click="moveName(i, 1)"
            >
              ›
            </button>
            <button class="icon" :aria-label="`Leave ${says[n.says]} out of names`" @click="dropName(i)">
              <X :size="12" />
            </button>
          </li>
          <li v-if="!names.length" class="dim">as usual: scene, shot, camera, format, version</li>
        </ul>
        <el-dropdown trigger="click" @command="addName($event)">
          <button class="act"><Plus :size="13" /> Piece</button>
          <template #dropdown>
            <el-dropdown-menu
              ><el-dropdown-item v-for="s in nameSays" :key="s" :command="s">{{ says[s] }}</el-dropdown-item>
            </el-dropdown-menu>
          </template>
        </el-dropdown>
        <output v-if="example" class="example" aria-label="Example of a name">{{ example }}</output>
      </div>
    </div>
    <p v-if="wrong" role="alert" class="why">{{ wrong }}</p>
    <template #footer>
      <div class="foot">
        <button v-if="id" class="act" :disabled="busy" @click="forget"><Trash2 :size="13" /> Remove</button>
        <span class="dim">Recipes are the production's; its other scenes have them too.</span>
        <button class="act" :disabled="busy || !!wrong" @click="keep('new')">Keep as a new one</button>
        <button v-if="id" class="act main" :disabled="busy || !!wrong" @click="keep('same')">Keep</button>
      </div>
    </template>
  </el-dialog>
</template>
<style scoped>
.recipe {
  display: grid;
  grid-template-columns: 330px 1fr;
  gap: 22px;
}
.side {
  display: flex;
  flex-direction: column;
  align-items: stretch;
  gap: 8px;
  min-width: 0;
}
.side > .act,
.side > .el-dropdown {
  align-self: flex-start;
}
.row {
  display: grid;
  grid-template-columns: 84px 1fr;
  align-items: center;
  gap: 8px;
  margin: 0;
}
.row > span,
.hint {
  color: var(--dim);
  font-size: 12px;
}
.hint {
  margin: -4px 0 0 92px;
}
.text {
  min-width: 0;
  height: 24px;
  padding: 0 7px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12.5px var(--font);
}
.text.short {
  width: 84px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 14px;
}
.stack {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
}
h3 {
  margin: 0;
}
h3 + .pieces {
  margin-top: 0;
}
.frame {
  position: relative;
  overflow: hidden;
  width: 100%;
  max-height: 250px;
  border-radius: 4px;
  background: var(--raised);
  container-type: size;
}
.mask {
  position: absolute;
  inset: 0;
  margin: auto;
  outline: 999px solid;
  pointer-events: none;
}
.frame img {
  width: 100%;
  height: 100%;
  object-fit: cover;
  opacity: 0.75;
}
.burn {
  position: absolute;
  padding: 0.12em 0.3em;
  background: rgb(0 0 0 / 55%);
  color: #eeece4;
  font-weight: 500;
  line-height: 1.25;
  white-space: nowrap;
  cursor: grab;
  touch-action: none;
}
.burn.held {
  cursor: grabbing;
  outline: 1px solid var(--brass);
}
.pieces {
  display: flex;
  flex-direction: column;
  gap: 3px;
  margin: 0;
  padding: 0;
  max-height: 132px;
  overflow-y: auto;
  list-style: none;
  font-size: 12.5px;
}
.pieces li {
  display: grid;
  grid-template-columns: 1fr 124px 28px;
  align-items: center;
  gap: 8px;
}
.pieces.names {
  flex-direction: row;
  flex-wrap: wrap;
  gap: 5px;
}
.pieces.names li {
  display: flex;
  gap: 1px;
  padding: 0 2px 0 4px;
  border: 1px solid var(--line);
  border-radius: 4px;
}
.pieces.names li.dim {
  padding: 0;
  border: 0;
}
.example {
  padding: 5px 8px;
  border-radius: 4px;
  background: var(--raised);
  font: 11.5px var(--font-mono);
  overflow-wrap: anywhere;
}
.why {
  color: var(--warning);
  font-size: 12px;
}
.foot {
  display: flex;
  align-items: center;
  gap: 8px;
}
.foot .dim {
  flex: 1;
  font-size: 12px;
  text-align: left;
}
</style>
