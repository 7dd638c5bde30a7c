<script setup lang="ts">
// The productions and their scenes; with one scene it is opened at once.
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type SceneInfo } from '@/api/client'
import { sendLeft } from '@/stores/keeping'
import { usePerson } from '@/stores/person'

const router = useRouter()
const person = usePerson()
const scenes = ref<SceneInfo[] | null>(null)
const failure = ref('')
const production = ref('')
const title = ref('')

async function load() {
  failure.value = ''
  try {
    scenes.value = await ask(api.GET('/scenes'))
  } catch (e) {
    failure.value = (e as Error).message
  }
}
async function make() {
  failure.value = ''
  try {
    const s = await ask(api.POST('/scenes', { body: { production: production.value, title: title.value } }))
    await router.push(`/scenes/${s.id}/dress`)
  } catch (e) {
    failure.value = (e as Error).message
  }
}
/** How many edits wait in each scene, since others have changed the same. */
const waiting = ref<Record<string, number>>({})
onMounted(async () => {
  await load()
  waiting.value = await sendLeft(await person.takeTab())
})
</script>
<template>
  <main class="page">
    <h1><img src="/mark.svg" alt="" width="34" height="34" />Proscen</h1>
    <p v-if="failure" class="why">{{ failure }} <button class="link" @click="load">Try again</button></p>
    <el-skeleton v-if="!scenes && !failure" :rows="3" animated />
    <template v-if="scenes">
      <h2>Scenes</h2>
      <ul v-if="scenes.length">
        <li v-for="s in scenes" :key="s.id">
          <router-link :to="`/scenes/${s.id}/splice`"
            ><b>{{ s.title }}</b
            ><span v-if="waiting[s.id]" class="why"
              >{{ waiting[s.id] }} of your edits {{ waiting[s.id] === 1 ? 'waits' : 'wait' }}: open it to bring them
              in</span
            ><span class="dim">{{ s.production }} · edit {{ s.revision }}</span></router-link
          >
        </li>
      </ul>
      <p v-else class="dim">There is no scene yet. Make the first one below.</p>
      <h2>New scene</h2>
      <form @submit.prevent="make">
        <input v-model="production" aria-label="Production" placeholder="production" required maxlength="200" />
        <input v-model="title" aria-label="Title" placeholder="title" required maxlength="200" />
        <button class="act main">Make the scene</button>
      </form>
    </template>
  </main>
</template>
<style scoped>
.page {
  max-width: 640px;
  margin: 9vh auto 0;
  padding: 0 24px;
}
h1 {
  display: flex;
  align-items: center;
  gap: 12px;
  font-weight: 600;
}
h2 {
  margin: 32px 0 10px;
  color: var(--dim);
  font: 500 14px var(--font);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
a {
  display: flex;
  justify-content: space-between;
  padding: 14px 16px;
  margin-bottom: 6px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
  color: var(--text);
  text-decoration: none;
}
a:hover {
  border-color: var(--brass);
}
form {
  display: flex;
  gap: 8px;
}
form input {
  flex: 1;
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 14px var(--font);
}
.why {
  color: var(--warning);
}
</style>
