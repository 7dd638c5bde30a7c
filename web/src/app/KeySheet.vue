<script setup lang="ts">
// All commands with their keys, grouped by the desks on which they can be done.
import { computed, ref } from 'vue'
import { commands, onDesk, useKeys, type Command } from '@/stores/keys'
import { desks, useView } from '@/stores/view'

const emit = defineEmits<{ close: []; open: [what: 'preferences' | 'round'] }>()
const view = useView()
const { shownOf } = useKeys()
const search = ref('')
const keyOf = (c: Command) => shownOf(c, onDesk(c, view.desk) ? view.desk : c.desks![0]!)
/** The digits are one line. */
const digits = (c: Command) => c.words.startsWith('camera 1:')
const titles = (c: Command) =>
  c.desks ? c.desks.map((d) => desks.find((x) => x.id === d)!.title).join(', ') : 'Every desk'
/** Groups by where commands can be done: everywhere, then from desk to desk. */
const groups = computed(() => {
  const wanted = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  const out = new Map<string, Command[]>()
  for (const c of commands.value) {
    if (c.hidden || !c.keys.length) continue
    const text = `${c.words} ${titles(c)} ${keyOf(c)}`.toLowerCase()
    if (wanted.every((w) => text.includes(w))) out.set(titles(c), [...(out.get(titles(c)) ?? []), c])
  }
  return [...out]
})
</script>
<template>
  <el-dialog :model-value="true" append-to-body title="Keyboard" width="1080" top="4vh" @close="emit('close')">
    <div class="find">
      <input v-model="search" type="search" placeholder="search" aria-label="Search the keys" autofocus />
      <button class="act" @click="emit('open', 'round')">A guided round</button>
      <button class="act" @click="emit('open', 'preferences')">Change keys…</button>
    </div>
    <div class="sheet">
      <section v-for="[title, list] in groups" :key="title" :aria-label="title">
        <h3>{{ title }}</h3>
        <p v-for="c in list" :key="c.words">
          <kbd>{{ digits(c) ? '1 – 9' : keyOf(c) || '—' }}</kbd><span>{{
            digits(c) ? c.words.replace(' 1:', ':') : c.words
          }}</span>
        </p>
      </section>
      <p v-if="!groups.length" class="note">No command is called “{{ search }}”.</p>
    </div>
  </el-dialog>
</template>
<style scoped>
.find {
  display: flex;
  gap: 8px;
  margin-bottom: 10px;
}
.find input {
  flex: 1;
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: inherit;
  font: 12.5px var(--font);
}
.sheet {
  max-height: 70vh;
  overflow: auto;
  columns: 4;
  column-gap: 18px;
  font: 12px/1.25 var(--font-condensed);
}
h3 {
  margin: 0 0 4px;
  break-after: avoid;
}
section {
  margin-bottom: 10px;
}
p {
  display: flex;
  gap: 8px;
  margin: 2px 0;
  break-inside: avoid;
}
kbd {
  flex: none;
  min-width: 58px;
  padding: 0 4px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  font: 11px/16px var(--font-mono);
  text-align: center;
  white-space: nowrap;
}
</style>
