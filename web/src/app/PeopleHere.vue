<script setup lang="ts">
// Who has the scene open. Somebody can be followed; one's own name and colour are
// chosen here, once for this browser.
import { Check } from '@lucide/vue'
import { ref } from 'vue'
import { usePeople } from '@/stores/people'
import { peopleColors, usePerson } from '@/stores/person'

const people = usePeople()
const person = usePerson()
const open = ref(false)
const initials = (name: string) =>
  name
    .split(/\s+/)
    .slice(0, 2)
    .map((w) => w.charAt(0).toUpperCase())
    .join('')
const shown = 5
</script>
<template>
  <div class="people" role="group" aria-label="Who is here">
    <button
      v-for="p in people.others.slice(0, shown)"
      :key="p.tab"
      class="chip"
      :class="{ followed: people.followed === p.tab }"
      :style="{ '--person': p.color }"
      :aria-label="`Follow ${p.name}, ${initials(p.name)}`"
      :aria-pressed="people.followed === p.tab"
      :title="`${people.doing(p)} — press to follow`"
      @click="people.follow(p.tab)"
    >
      {{ initials(p.name) }}
    </button>
    <span
      v-if="people.others.length > shown"
      class="dim"
      :title="
        people.others
          .slice(shown)
          .map((p) => p.name)
          .join(', ')
      "
      >+{{ people.others.length - shown }}</span
    >
    <el-popover v-model:visible="open" trigger="click" :width="236" placement="bottom-end">
      <template #reference>
        <button
          class="chip me"
          :class="{ unnamed: !person.chosen }"
          :style="{ '--person': person.color }"
          :aria-label="`You are ${person.name}, ${initials(person.name)}`"
          :title="person.chosen ? `You are ${person.name}` : 'Choose your name and colour'"
        >
          {{ initials(person.name) }}
        </button>
      </template>
      <label class="name"
        >Your name
        <input
          v-typed
          :value="person.chosen ? person.name : ''"
          aria-label="Your name"
          :placeholder="person.name"
          maxlength="60"
          @keydown.stop
          @change="person.name = ($event.target as HTMLInputElement).value"
          @keydown.enter="open = false"
      /></label>
      <div class="colors" v-arrows role="radiogroup" aria-label="Your colour">
        <button
          v-for="(c, i) in peopleColors"
          :key="c"
          role="radio"
          :aria-checked="person.color === c"
          :aria-label="`Colour ${i + 1}`"
          :style="{ background: c }"
          @click="person.color = c"
        >
          <Check v-if="person.color === c" :size="13" />
        </button>
      </div>
      <p class="note">The others who have the scene open see it with your selection, your camera and your edits.</p>
    </el-popover>
  </div>
</template>
<style scoped>
.people {
  display: flex;
  align-items: center;
  gap: 4px;
}
.chip {
  width: 26px;
  height: 26px;
  padding: 0;
  border: 2px solid var(--person);
  border-radius: 50%;
  background: color-mix(in srgb, var(--person) 22%, var(--panel));
  color: var(--text);
  font: 600 10.5px var(--font-condensed);
  cursor: pointer;
}
.chip.followed {
  background: var(--person);
  color: var(--ink);
}
.chip.me {
  border-style: dotted;
}
.chip.unnamed {
  font-weight: 400;
}
.name {
  display: grid;
  gap: 4px;
  color: var(--dim);
  font-size: 12px;
}
.name input {
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--ink);
  color: var(--text);
  font: 13px var(--font);
}
.colors {
  display: flex;
  gap: 6px;
  margin-top: 10px;
}
.colors button {
  display: grid;
  place-items: center;
  width: 20px;
  height: 20px;
  padding: 0;
  border: 0;
  border-radius: 50%;
  color: var(--ink);
  cursor: pointer;
}
</style>
