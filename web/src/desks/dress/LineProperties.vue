<script setup lang="ts">
// A line of dialogue.
import { computed } from 'vue'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import { useSubjects } from '../useSubjects'

const props = defineProps<{ line: string }>()
const scene = useScene()
const view = useView()
const { cast } = useSubjects()
const l = computed(() => scene.doc.lines[props.line])
const set = (merge: object, label: string) => scene.run('set', { collection: 'lines', id: props.line, merge, label })
function remove() {
  if (scene.run('remove', { collection: 'lines', ids: [props.line] })) view.select('lines', '')
}
</script>
<template>
  <section v-if="l" class="props" aria-label="Line">
    <header class="head">Line</header>
    <div class="body">
      <label class="pick"
        >Speaker
        <select
          :value="l.cast"
          aria-label="Speaker"
          @change="set({ cast: ($event.target as HTMLSelectElement).value }, 'change the speaker')"
        >
          <option v-for="s in cast" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
      <textarea
        v-typed
        :value="l.text"
        aria-label="Text"
        rows="4"
        @keydown.stop
        @change="set({ text: ($event.target as HTMLTextAreaElement).value }, 'change a line')"
      ></textarea>
      <NumberField
        label="First frame"
        :digits="0"
        :step="1"
        :value="l.in"
        @change="set({ in: Math.round($event) }, 'move a line')"
      />
      <NumberField
        label="Last frame"
        :digits="0"
        :step="1"
        :value="l.out - 1"
        @change="set({ out: Math.round($event) + 1 }, 'trim a line')"
      />
      <label class="check"
        ><input
          type="checkbox"
          :checked="!!l.gesture"
          @change="set({ gesture: l!.gesture ? null : true }, 'speak with the hands')"
        />
        Speaks with the hands</label
      >
      <div class="row"><button class="act" @click="remove">Remove</button></div>
    </div>
  </section>
</template>
<style scoped>
textarea {
  width: 100%;
  margin: 8px 0;
  padding: 6px 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 13px/1.4 var(--font);
  resize: vertical;
}
</style>
