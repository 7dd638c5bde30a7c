<script setup lang="ts">
// Whose ribbons are shown over the cut: people first, then whatever is looked for.
import { ScanEye } from '@lucide/vue'
import { computed, ref } from 'vue'
import { useSubjects } from '@/desks/useSubjects'
import { useWatching } from '@/stores/watching'

const watching = useWatching()
const { subjects } = useSubjects()
const words = ref('')
const most = 24 // are listed; a scene may have thousands
const listed = computed(() => {
  const sought = words.value.trim().toLowerCase()
  return subjects.value.filter((s) => s.name.toLowerCase().includes(sought)).slice(0, most)
})
function toggle(id: string) {
  const now = watching.subjects
  watching.subjects = now.includes(id) ? now.filter((x) => x !== id) : [...now, id]
}
</script>
<template>
  <el-popover placement="top" :width="200" trigger="click">
    <template #reference>
      <button
        class="icon"
        aria-label="Who is seen"
        title="Ribbons: when somebody or something is seen in the cut"
        :aria-pressed="watching.subjects.length > 0"
      >
        <ScanEye :size="14" />
      </button>
    </template>
    <div class="watch-menu" role="group" aria-label="Followed in the cut" @keydown.stop>
      <input v-model="words" class="seek" aria-label="Look for somebody or something" placeholder="whom or what" />
      <label v-for="s in listed" :key="s.id" class="check"
        ><input type="checkbox" :checked="watching.subjects.includes(s.id)" @change="toggle(s.id)" />
        {{ s.name }}</label
      >
      <p v-if="subjects.length > listed.length && !words" class="dim">Type to find the others.</p>
      <button v-if="watching.subjects.length" class="link" @click="watching.subjects = []">Nobody</button>
    </div>
  </el-popover>
</template>
<style scoped>
.watch-menu {
  display: grid;
  gap: 2px;
  max-height: 300px;
  overflow-y: auto;
}
.watch-menu .check {
  margin: 0;
}
.seek {
  margin-bottom: 4px;
  padding: 4px 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
}
</style>
