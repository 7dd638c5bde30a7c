<script setup lang="ts">
// What was done, by whom and when; every state can be seen and restored. States
// with a name are kept, and compared thing by thing. And what could not be kept.
import { useDebounceFn } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, ask, type LoggedEdit, type Version } from '@/api/client'
import { core, type CollectionName, type Compared, type Document } from '@/core/bridge'
import { usePeople } from '@/stores/people'
import { usePerson } from '@/stores/person'
import { useScene } from '@/stores/scene'
import { sentence } from '@/ui/sentence'
import { useView } from '@/stores/view'
import { ago } from '@/ui/ago'

const open = defineModel<boolean>({ required: true })
const scene = useScene()
const view = useView()
const people = usePeople()
const person = usePerson()
const leaf = ref<'edits' | 'versions' | 'lost'>('edits')
const edits = ref<LoggedEdit[]>([])
const versions = ref<Version[]>([])
const failure = ref('')
const more = ref(false)
const chosen = ref(0)
const name = ref('')
const page = 60
const path = computed(() => ({ scene: scene.id }))

async function guarded(what: () => Promise<void>) {
  failure.value = ''
  try {
    await what()
  } catch (e) {
    failure.value = sentence((e as Error).message)
  }
}
const fetchEdits = (before?: number) =>
  ask(api.GET('/scenes/{scene}/edits', { params: { path: path.value, query: { limit: page, before } } }))
const load = () =>
  guarded(async () => {
    const at = scene.id
    const [found, kept] = await Promise.all([
      fetchEdits(),
      ask(api.GET('/scenes/{scene}/versions', { params: { path: path.value } })),
    ])
    if (scene.id !== at) return
    const known = edits.value.filter((e) => e.revision < (found.at(-1)?.revision ?? 0))
    edits.value = [...found, ...known]
    versions.value = kept
    more.value = (edits.value.at(-1)?.revision ?? 1) > 1
  })
const earlier = () =>
  guarded(async () => {
    const found = await fetchEdits(edits.value.at(-1)?.revision)
    edits.value = [...edits.value, ...found]
    more.value = found.length === page
  })
const soon = useDebounceFn(() => open.value && void load(), 300, { maxWait: 1500 })
watch([open, () => scene.revision], ([now]) => now && void soon())
watch(
  () => scene.id,
  () => {
    edits.value = []
    versions.value = []
    open.value = false
  },
)
watch(
  () => scene.showLost,
  (show) => {
    if (!show) return
    open.value = true
    leaf.value = 'lost'
    scene.showLost = false
  },
)

const colorOf = (e: LoggedEdit) =>
  e.person === person.id ? person.color : (people.others.find((p) => p.person === e.person)?.color ?? 'var(--line)')
const state = async (revision: number) =>
  (await ask(api.GET('/scenes/{scene}/at/{revision}', { params: { path: { ...path.value, revision } } })))
    .document as Document
const stateOf = async (v: Version) =>
  (await ask(api.GET('/scenes/{scene}/versions/{version}', { params: { path: { ...path.value, version: v.id } } })))
    .document as Document
const see = (e: LoggedEdit) =>
  guarded(async () => scene.look(`edit ${e.revision}, ${e.label}`, await state(e.revision)))
const restore = (e: LoggedEdit) =>
  guarded(async () => {
    scene.restore(await state(e.revision), `restore edit ${e.revision} (${e.label})`)
  })
const seeVersion = (v: Version) => guarded(async () => scene.look(`version “${v.name}”`, await stateOf(v)))
const restoreVersion = (v: Version) =>
  guarded(async () => {
    scene.restore(await stateOf(v), `restore version “${v.name}”`)
  })

const keep = (revision: number) =>
  guarded(async () => {
    await scene.flushed()
    const body = { revision: revision || scene.revision, name: name.value, author: person.name }
    await ask(api.POST('/scenes/{scene}/versions', { params: { path: path.value }, body }))
    name.value = ''
    leaf.value = 'versions'
    await load()
  })
const forget = (v: Version) =>
  guarded(async () => {
    const r = await api.DELETE('/scenes/{scene}/versions/{version}', {
      params: { path: { ...path.value, version: v.id } },
    })
    if (r.error) throw new Error(r.error.title)
    await load()
  })

const compared = ref<{ title: string; list: Compared[] } | null>(null)
/** What has changed from a version to another one, or to now. */
const compare = (v: Version, to?: Version) =>
  guarded(async () => {
    const [first, second] = await Promise.all([stateOf(v), to && stateOf(to)])
    compared.value = {
      title: `From “${v.name}” to ${to ? `“${to.name}”` : 'now'}`,
      list: core.compare(first, second),
    }
  })
function go(d: Compared) {
  if (d.what === 'removed') return void ElMessage({ message: 'It is not in the scene any more.', type: 'info' })
  view.select(d.collection as CollectionName, d.id)
}
const leaves = computed(() => [
  { id: 'edits' as const, title: 'edits' },
  { id: 'versions' as const, title: `versions${versions.value.length ? ` ${versions.value.length}` : ''}` },
  { id: 'lost' as const, title: `not kept${scene.lost.length ? ` ${scene.lost.length}` : ''}` },
])
</script>
<template>
  <el-drawer
    v-model="open"
    title="History"
    :size="352"
    :modal="false"
    modal-penetrable
    :lock-scroll="false"
    class="history"
    append-to-body
  >
    <nav class="leaves" v-arrows role="tablist" aria-label="History">
      <button v-for="l in leaves" :key="l.id" role="tab" :aria-selected="leaf === l.id" @click="leaf = l.id">
        {{ l.title }}
      </button>
    </nav>
    <p v-if="failure" class="why">{{ failure }} <button class="link" @click="load">Try again</button></p>

    <ol v-if="leaf === 'edits'" class="list" aria-label="Edits">
      <li v-for="e in edits" :key="e.revision" :class="{ turned: e.kind !== 'do', chosen: chosen === e.revision }">
        <button
          class="edit"
          :aria-expanded="chosen === e.revision"
          @click="chosen = chosen === e.revision ? 0 : e.revision"
        >
          <i :style="{ background: colorOf(e) }"></i>
          <span class="label">{{ e.label }}</span>
          <span class="dim">{{ e.revision }}</span>
          <span class="dim by">{{ e.author }} · {{ ago(e.at) }}</span>
        </button>
        <div v-if="chosen === e.revision" class="row">
          <button class="act" @click="see(e)">See this state</button>
          <button class="act" @click="restore(e)">Restore it</button>
          <input v-model="name" aria-label="Name of the version" placeholder="name it…" maxlength="120" @keydown.stop />
          <button class="act" :disabled="!name.trim()" @click="keep(e.revision)">Keep</button>
        </div>
      </li>
      <li v-if="!edits.length" class="dim none">Nothing has been done in this scene yet.</li>
      <li v-if="more"><button class="link" @click="earlier">earlier edits</button></li>
    </ol>

    <template v-else-if="leaf === 'versions'">
      <form class="keep" @submit.prevent="keep(0)">
        <input
          v-model="name"
          aria-label="Name of the version"
          placeholder="name of this state"
          maxlength="120"
          @keydown.stop
        />
        <button class="act main" :disabled="!name.trim()">Keep this state</button>
      </form>
      <ul class="list" aria-label="Versions">
        <li v-for="(v, i) in versions" :key="v.id">
          <div class="version">
            <b>{{ v.name }}</b><span class="dim">edit {{ v.revision }} · {{ v.author }} · {{ ago(v.at) }}</span>
          </div>
          <div class="row">
            <button class="act" @click="seeVersion(v)">See it</button>
            <button class="act" @click="compare(v)">Compare with now</button>
            <button v-if="i + 1 < versions.length" class="act" @click="compare(versions[i + 1]!, v)">
              With the one before
            </button>
            <button class="act" @click="restoreVersion(v)">Restore</button>
            <button class="act" @click="forget(v)">Forget the name</button>
          </div>
        </li>
        <li v-if="!versions.length" class="dim none">
          Give a state a name before you try something: it can be seen, compared and restored at any time.
        </li>
      </ul>
      <section v-if="compared" class="compared" aria-label="What differs">
        <h3>{{ compared.title }}</h3>
        <p v-if="!compared.list.length" class="dim">Nothing differs.</p>
        <button v-for="d in compared.list.slice(0, 200)" :key="`${d.collection}/${d.id}`" class="diff" @click="go(d)">
          <span :class="d.what">{{ d.what }}</span> {{ d.name }}
          <span v-if="d.fields?.length" class="dim">{{ d.fields.join(', ') }}</span>
        </button>
        <p v-if="compared.list.length > 200" class="dim">and {{ compared.list.length - 200 }} more</p>
      </section>
    </template>

    <ul v-else class="list" aria-label="Edits that could not be kept">
      <li v-for="l in scene.lost" :key="l.edit.id">
        <div class="version">
          <b>{{ l.edit.label }}</b><span class="dim">{{ sentence(l.why) }}</span>
        </div>
        <div class="row">
          <button v-if="l.edit.operation" class="act" @click="scene.retry(l)">Do it again</button>
          <button class="act" @click="scene.dismiss(l.edit.id)">Let it go</button>
        </div>
      </li>
      <li v-if="!scene.lost.length" class="dim none">
        Everything that was done here has been kept. When somebody else changes the same thing first, what could not be
        kept waits here.
      </li>
    </ul>
  </el-drawer>
</template>
<style>
.el-drawer.history {
  top: 44px;
  height: calc(100% - 68px - var(--strip, 200px)); /* the strip stays in reach */
  border-left: 1px solid var(--line);
}
.history .el-drawer__header {
  margin: 0;
  padding: 8px 12px 2px;
  color: var(--text);
  font-weight: 500;
}
.history .el-drawer__title {
  font-size: 13px;
}
.history .el-drawer__body {
  padding: 4px 12px 12px;
}
</style>
<style scoped>
.leaves {
  margin: 0 0 8px;
}
.why {
  color: var(--warning);
}
.list {
  margin: 0;
  padding: 0;
  list-style: none;
}
.list li {
  border-bottom: 1px solid var(--line);
}
.list li.chosen {
  background: var(--raised);
}
.edit {
  display: grid;
  grid-template-columns: 10px minmax(0, 1fr) auto;
  gap: 0 8px;
  align-items: baseline;
  width: 100%;
  padding: 7px 6px;
  border: 0;
  background: none;
  color: var(--text);
  font: 12.5px var(--font);
  text-align: left;
  cursor: pointer;
}
.edit:hover {
  background: var(--raised);
}
.edit i {
  width: 8px;
  height: 8px;
  border-radius: 50%;
}
.edit .dim {
  font: 11.5px var(--font-condensed);
}
.edit .by {
  grid-column: 2 / 4;
}
.turned .label {
  color: var(--dim);
}
.row {
  margin: 0;
  padding: 2px 6px 8px;
}
.row input,
.keep input {
  flex: 1;
  min-width: 60px;
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--ink);
  color: var(--text);
  font: 12px var(--font);
}
.keep {
  display: flex;
  gap: 6px;
  margin-bottom: 8px;
}
.version {
  display: grid;
  padding: 8px 6px 4px;
}
.version .dim {
  font-size: 12px;
}
.none {
  padding: 12px 6px;
}
.compared {
  margin-top: 12px;
}
.diff {
  display: block;
  width: 100%;
  padding: 4px 6px;
  border: 0;
  background: none;
  color: var(--text);
  font: 12px var(--font);
  text-align: left;
  cursor: pointer;
}
.diff:hover {
  background: var(--raised);
}
.diff > span:first-child {
  display: inline-block;
  width: 58px;
  font-family: var(--font-condensed);
}
.added {
  color: var(--good);
}
.removed {
  color: var(--dim);
  text-decoration: line-through;
}
.changed {
  color: var(--warning);
}
</style>
