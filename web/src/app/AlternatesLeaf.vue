<script setup lang="ts">
// The alternates of the scene, and what differs in the one that is worked in: seen,
// searched, taken back, put down, copied to another one.
import { useDebounceFn } from '@vueuse/core'
import { ElMessage, ElMessageBox } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { Image as ImageIcon } from '@lucide/vue'
import { core, layerOf, type CollectionName, type Side, type Told } from '@/core/bridge'
import { useAlternates, type Listed } from '@/stores/alternates'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import DifferMenu from '@/ui/DifferMenu.vue'
import { fieldName, fieldValue } from '@/ui/fields'
import { sentence } from '@/ui/sentence'
import { useStage } from '@/view3d/stage'

const open = defineModel<boolean>({ required: true })
const scene = useScene()
const view = useView()
const alternates = useAlternates()
const head = usePlayhead()

/** What is typed of one that is made, or of the one with this id. */
const form = ref<{ id: string; name: string; parent: string; format: string; assembly: string; known: string } | null>(
  null,
)
const begin = () => (form.value = { id: '', name: '', parent: scene.alternate, format: '', assembly: '', known: '' })
function change(a: Listed) {
  const { name, parent = '', format = '', assembly = '', known = '' } = scene.doc.alternates[a.id]!
  form.value = { id: a.id, name, parent, format, assembly, known }
}
function put() {
  const f = form.value!
  if (f.id) return void (scene.run('alternateChange', f) && (form.value = null))
  const { name, parent, format, assembly, known } = f
  const [made] = scene.make('alternates', 'alternateAdd', { name, parent, format, assembly, known })
  if (!made) return
  form.value = null
  alternates.workIn(made)
}
async function remove(a: Listed) {
  const on = alternates.all.filter((x) => scene.doc.alternates[x.id]?.parent === a.id)
  let keep = false
  if (on.length)
    try {
      await ElMessageBox.confirm(
        `${on.map((x) => x.name).join(', ')} ${on.length > 1 ? 'hang' : 'hangs'} on ${a.name}. What differs in ${a.name} can go down into ${on.length > 1 ? 'them' : 'it'}, or away.`,
        `Remove ${a.name}`,
        { confirmButtonText: 'Down', cancelButtonText: 'Away', distinguishCancelAndClose: true },
      )
      keep = true
    } catch (how) {
      if (how !== 'cancel') return
    }
  if (scene.alternate === a.id) alternates.workIn(scene.doc.alternates[a.id]?.parent ?? '')
  scene.run('alternateRemove', { id: a.id, keep })
}

const below = computed(() => alternates.below)
/** What is compared with instead of what it hangs on: an alternate, '' for the scene; null for that. */
const against = ref<string | null>(null)
watch([() => scene.layer, () => scene.id], () => (against.value = null))
const list = shallowRef<Told[]>([])
function read() {
  if (!open.value || !scene.layer || !scene.loaded) return void (list.value = [])
  if (against.value && !scene.doc.alternates[against.value]) against.value = null
  const o = against.value === null ? core.differing(scene.layer) : core.compareSides(scene.layer, against.value)
  list.value = 'error' in o ? [] : (o as Told[])
  const there = new Set(list.value.map((d) => d.id))
  chosen.value = new Set([...chosen.value].filter((id) => there.has(id)))
}
const chosen = ref(new Set<string>())
// What lies below may change with every picture of a drag: then it is read in between.
const soon = useDebounceFn(read, 150, { maxWait: 400 })
watch([open, () => scene.differed, () => scene.layer, against], read, { immediate: true })
watch(
  () => scene.changes,
  () => void soon(),
)
const of = {
  all: null,
  Dress: ['nodes', 'paths', 'actions', 'lines', 'settings'],
  Frame: ['nodes', 'curves', 'paths'],
  Splice: ['shots', 'lanes', 'markers', 'boards', 'tracks', 'sounds'],
}
const desk = ref<keyof typeof of>('all')
const wanted = ref('')
const shown = computed(() =>
  list.value.filter((d) => {
    const isCamera = !!scene.doc.nodes[d.owner]?.camera
    const here =
      desk.value === 'all' ||
      (of[desk.value]!.includes(d.collection) && (d.collection !== 'nodes' || isCamera === (desk.value === 'Frame')))
    const text = `${d.name} ${d.what} ${d.fields.map((f) => fieldName(f.name)).join(' ')}`.toLowerCase()
    return here && text.includes(wanted.value.toLowerCase())
  }),
)
function tick(id: string) {
  const now = new Set(chosen.value)
  if (!now.delete(id)) now.add(id)
  chosen.value = now
}
/** The same frame with a difference and without it, by collection/thing; of another alternate, here and there. */
const pictures = ref<Record<string, { with: string; without: string }>>({})
const keyOf = (d: Told) => `${d.collection}/${d.thing}`
let moment = 0
watch([() => head.frame, () => scene.changes, () => scene.layer, against], () => {
  moment++
  pictures.value = {}
})
async function picture(d: Told) {
  const { [keyOf(d)]: shown, ...others } = pictures.value
  if (shown) return void (pictures.value = others)
  const camera = view.through || head.airCamera || scene.wall[0]?.id
  if (!camera) return void ElMessage({ message: 'There is no camera yet to see it through.', type: 'info' })
  const shot = scene.onlyIn || (head.airCamera === camera ? head.airShot : '')
  const at = (more: object) => ({ alternate: scene.alternate, shot, ...more })
  const take = (side: Side) => useStage().stillBeside(side, camera, head.story, 320)
  const other = at(against.value === null ? { without: [d.id] } : { alternate: against.value })
  const now = moment
  try {
    const made = { with: await take(at({})), without: await take(other) }
    if (!made.with || !made.without) throw new Error('the camera is not there, or nothing can be drawn')
    if (now === moment) pictures.value = { ...pictures.value, [keyOf(d)]: made }
  } catch (e) {
    ElMessage({ message: `There is no picture: ${(e as Error).message}.`, type: 'warning', showClose: true })
  }
}
/** Layers of shots where something is, and that which is worked in. */
const shots = computed(() =>
  [...new Set([...alternates.shots.map((s) => s.layer), ...(scene.onlyIn ? [scene.layer] : [])])]
    .map((id) => ({
      id,
      name: alternates.called(id),
      count: alternates.shots.find((s) => s.layer === id)?.count ?? 0,
    }))
    .sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true })),
)
/** What differences can be copied to: of one shot, to the shot that is on air. */
const others = computed(() => {
  const to = alternates.all.filter((a) => a.id !== scene.layer).map(({ id, name }) => ({ id, name }))
  const air = layerOf(scene.alternate, head.airShot)
  if (scene.onlyIn && scene.doc.shots[head.airShot] && air !== scene.layer)
    to.unshift({ id: air, name: alternates.called(air).replace('only in ', '') })
  return to
})
function go(d: Told) {
  if (d.what === 'removed') return void ElMessage({ message: `It is not in ${alternates.here?.name}.`, type: 'info' })
  if (d.collection === 'curves' && d.owner) view.select('nodes', d.owner)
  else view.select(d.collection as CollectionName, d.thing)
}
/** Keys of curves are told by their number. */
const said = (d: Told, field: string, v: unknown) =>
  d.collection === 'curves'
    ? `${Array.isArray(v) ? v.length : 0} keys`
    : field === 'parent' || field === 'lane'
      ? (scene.doc.nodes[String(v)]?.name ?? fieldValue(v))
      : fieldValue(v)
</script>
<template>
  <el-drawer
    v-model="open"
    title="Alternates"
    :size="352"
    :modal="false"
    modal-penetrable
    :lock-scroll="false"
    class="history"
    append-to-body
  >
    <ul class="tree" aria-label="Alternates">
      <li :class="{ on: !scene.layer }">
        <button class="which" :aria-pressed="!scene.layer" @click="alternates.workIn('')">
          <i></i>the scene itself
        </button>
      </li>
      <li v-for="a in alternates.all" :key="a.id" :class="{ on: a.id === scene.layer }">
        <button
          class="which"
          :style="{ paddingLeft: `${6 + 14 * (a.depth + 1)}px` }"
          :aria-pressed="a.id === scene.layer"
          @click="alternates.workIn(a.id)"
        >
          <i :style="{ background: a.color }"></i>{{ a.name }}
          <span class="dim">{{
            a.count ? `${a.count} ${a.count === 1 ? 'difference' : 'differences'}` : 'no difference'
          }}</span>
        </button>
        <button class="link" :aria-label="`Change ${a.name}`" @click="change(a)">change</button>
        <button class="link" :aria-label="`Remove ${a.name}`" @click="remove(a)">remove</button>
        <p v-if="a.fault" class="why">{{ sentence(a.fault) }}</p>
      </li>
      <li v-for="s in shots" :key="s.id" :class="{ on: s.id === scene.layer }">
        <button class="which" :aria-pressed="s.id === scene.layer" @click="alternates.workIn(s.id)">
          <i class="one"></i>{{ s.name }} <span class="dim">{{ s.count || 'nothing yet' }}</span>
        </button>
      </li>
    </ul>
    <form
      v-if="form"
      class="form"
      :aria-label="form.id ? 'Change the alternate' : 'New alternate'"
      @submit.prevent="put"
    >
      <label
        >Name<input
          v-model="form.name"
          aria-label="Name of the alternate"
          maxlength="80"
          placeholder="night"
          @keydown.stop
      /></label>
      <label
        >Hangs on<select v-model="form.parent" aria-label="Hangs on">
          <option value="">the scene</option>
          <option v-for="a in alternates.all.filter((x) => x.id !== form!.id)" :key="a.id" :value="a.id">
            {{ a.name }}
          </option>
        </select></label
      >
      <label
        >Chosen with the format<select v-model="form.format" aria-label="Chosen with the format">
          <option value="">none</option>
          <option v-for="(f, id) in scene.doc.formats" :key="id" :value="id">{{ f.name }}</option>
        </select></label
      >
      <label
        >Chosen with the assembly<select v-model="form.assembly" aria-label="Chosen with the assembly">
          <option value="">none</option>
          <option v-for="(x, id) in scene.doc.assemblies" :key="id" :value="id">{{ x.name }}</option>
        </select></label
      >
      <label
        >In all scenes known as<input
          v-model="form.known"
          aria-label="In all scenes known as"
          maxlength="80"
          placeholder="no name"
          @keydown.stop
      /></label>
      <div class="row">
        <button class="act main" :disabled="!form.name.trim()">
          {{ form.id ? 'Change it' : 'Make it, and work in it' }}
        </button>
        <button type="button" class="act" @click="form = null">Leave it</button>
      </div>
    </form>
    <div v-else class="row"><button class="act" @click="begin">New alternate</button></div>

    <section v-if="scene.layer" aria-label="What differs">
      <h3>
        Differs from
        <select v-model="against" aria-label="Compared with">
          <option :value="null">{{ below }}</option>
          <option v-if="below !== 'the scene'" value="">the scene itself</option>
          <option v-for="a in alternates.all.filter((x) => x.id !== scene.layer)" :key="a.id" :value="a.id">
            {{ a.name }}
          </option>
        </select>
      </h3>
      <div class="sift">
        <el-radio-group v-model="desk" size="small" aria-label="Of the desk">
          <el-radio-button v-for="(_, d) in of" :key="d" :value="d" :label="d" />
        </el-radio-group>
        <input v-model="wanted" type="search" aria-label="Search what differs" placeholder="search" @keydown.stop />
      </div>
      <div v-if="chosen.size" class="row" role="toolbar" aria-label="Chosen differences">
        <span class="dim">{{ chosen.size }} chosen</span>
        <button class="act" @click="scene.run('differencesBack', { ids: [...chosen] })">As in {{ below }}</button>
        <button class="act" @click="scene.run('differencesDown', { ids: [...chosen] })">Put into {{ below }}</button>
      </div>
      <ul class="list" aria-label="Differences">
        <li v-for="d in shown" :key="keyOf(d)">
          <div class="head">
            <input
              v-if="against === null"
              type="checkbox"
              :checked="chosen.has(d.id)"
              :aria-label="`Choose ${d.name}`"
              @change="tick(d.id)"
            />
            <button class="name" @click="go(d)">{{ d.name }}</button>
            <span :class="d.what">{{ d.what }}</span>
            <button
              class="icon small"
              :aria-label="`${d.name} in pictures`"
              title="This frame with it and without it"
              :aria-pressed="!!pictures[keyOf(d)]"
              @click="picture(d)"
            >
              <ImageIcon :size="13" />
            </button>
            <DifferMenu v-if="against === null" :ids="[d.id]" :others="others">
              <button class="icon small" :aria-label="`More for ${d.name}`">⋯</button>
            </DifferMenu>
          </div>
          <div v-if="pictures[keyOf(d)]" class="pictures">
            <figure>
              <img :src="pictures[keyOf(d)]!.without" :alt="`Without: ${d.name}`" />
              <figcaption>{{ against === null ? 'without' : 'there' }}</figcaption>
            </figure>
            <figure>
              <img :src="pictures[keyOf(d)]!.with" :alt="`With: ${d.name}`" />
              <figcaption>{{ against === null ? 'with it' : 'here' }}</figcaption>
            </figure>
          </div>
          <p v-if="d.rests" class="why">Has no effect: {{ d.rests }}.</p>
          <dl v-if="d.fields.length">
            <template v-for="f in d.fields.slice(0, 8)" :key="f.name">
              <dt>{{ fieldName(f.name) }}</dt>
              <dd>
                <span class="dim">{{ said(d, f.name, f.before) }}</span> → {{ said(d, f.name, f.after) }}
                <i v-if="f.moved" class="moved" :title="`${sentence(below)} has been changed here since`"
                  >has moved on</i
                >
                <button
                  v-if="d.fields.length > 1 && against === null"
                  class="link"
                  :aria-label="`${fieldName(f.name)} of ${d.name} as in ${below}`"
                  :title="`As in ${below}`"
                  @click="scene.run('differencesBack', { ids: [d.id], fields: [f.name] })"
                >
                  ↩
                </button>
              </dd>
            </template>
          </dl>
        </li>
        <li v-if="!list.length" class="dim none">
          <template v-if="against !== null">Nothing differs between them.</template>
          <template v-else-if="scene.onlyIn"
            >Nothing differs yet. What is moved, turned off, hidden or lit otherwise from now on is so in this shot
            only; the cut and what is heard stay.</template
          >
          <template v-else
            >Nothing differs yet. What is changed from now on, on any desk, is kept here alone; formats, assemblies,
            models and recipes are the scene’s.</template
          >
        </li>
        <li v-else-if="!shown.length" class="dim none">Nothing of this differs.</li>
      </ul>
    </section>
    <p v-else-if="!alternates.all.length" class="dim">
      An alternate is the same scene otherwise: by night, in rain, for a tall frame. Only what differs is kept, and what
      is changed in the scene later comes through.
    </p>
  </el-drawer>
</template>
<style scoped>
ul {
  margin: 0 0 8px;
  padding: 0;
  list-style: none;
}
.tree li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 0 8px;
  align-items: center;
  border-radius: 4px;
}
.tree li.on {
  background: var(--raised);
}
.tree .why {
  grid-column: 1 / -1;
}
.which {
  padding: 5px 6px;
  border: 0;
  background: none;
  color: var(--text);
  font: 12.5px var(--font);
  text-align: left;
  cursor: pointer;
}
.which i {
  display: inline-block;
  width: 9px;
  height: 9px;
  margin-right: 8px;
  border-radius: 2px;
  background: var(--dim);
}
h3 select {
  width: auto;
  max-width: 190px;
}
.pictures {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
  margin: 4px 0;
}
.pictures figure {
  margin: 0;
}
.pictures img {
  display: block;
  width: 100%;
  border-radius: 3px;
}
.pictures figcaption {
  color: var(--dim);
  font: 11px var(--font-condensed);
}
.which i.one {
  border-radius: 0;
  background: var(--one-shot);
}
.which .dim,
.head > span {
  font: 11.5px var(--font-condensed);
}
.which .dim {
  margin-left: 6px;
}
.form {
  display: grid;
  gap: 5px;
  margin-bottom: 8px;
  padding: 8px;
  border: 1px solid var(--line);
  border-radius: 5px;
}
.form label {
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr);
  align-items: center;
  color: var(--dim);
  font: 12px var(--font-condensed);
}
input:not([type='checkbox']),
select {
  width: 100%;
  height: 25px;
  padding: 0 7px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--ink);
  color: var(--text);
  font: 12px var(--font);
}
.sift {
  display: grid;
  grid-template-columns: auto minmax(60px, 1fr);
  gap: 8px;
  align-items: center;
  margin-bottom: 6px;
}
.list li {
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
.head {
  display: flex;
  gap: 7px;
  align-items: center;
  height: auto;
  padding: 0;
}
.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  padding: 2px 0;
  border: 0;
  background: none;
  color: var(--text);
  font: 12.5px var(--font);
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
.name:hover {
  text-decoration: underline;
}
dl {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 1px 8px;
  margin: 0 0 2px 22px;
  font: 12px var(--font);
}
dt {
  color: var(--dim);
  font-family: var(--font-condensed);
}
dd {
  margin: 0;
}
.moved {
  margin-left: 4px;
  padding: 0 5px;
  border-radius: 3px;
  background: var(--warning);
  color: var(--ink);
  font: 600 11px var(--font-condensed);
}
.added {
  color: var(--good);
}
.removed {
  color: var(--vermilion);
}
.changed {
  color: var(--warning);
}
.why {
  margin: 1px 0 2px;
  color: var(--warning);
  font-size: 12px;
}
.none {
  padding: 8px 2px;
}
</style>
