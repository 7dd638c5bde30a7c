<script setup lang="ts">
// What is known about the cut, in leaves: the shot, its boards, markers, rhythm
// and the assemblies.
import { useCutting } from '@/stores/cutting'
import { useView } from '@/stores/view'
import { watch } from 'vue'
import AssembliesPanel from './AssembliesPanel.vue'
import BoardsPanel from './BoardsPanel.vue'
import MarkersPanel from './MarkersPanel.vue'
import RhythmPanel from './RhythmPanel.vue'
import SoundPanel from './SoundPanel.vue'
import ShotPanel from './ShotPanel.vue'

const cutting = useCutting()
const view = useView()
const leaves = ['shot', 'boards', 'sound', 'markers', 'rhythm', 'assemblies'] as const
// What is selected on the strip is shown at once.
watch(
  () => view.selected,
  (s) => {
    if (s?.collection === 'markers') cutting.leaf = 'markers'
    else if (s?.collection === 'sounds' || s?.collection === 'tracks') cutting.leaf = 'sound'
    else if (s?.collection === 'shots' && ['markers', 'sound'].includes(cutting.leaf)) cutting.leaf = 'shot'
  },
)
</script>
<template>
  <section class="props">
    <div class="leaves" v-arrows role="tablist" aria-label="Cut">
      <button v-for="l in leaves" :key="l" role="tab" :aria-selected="cutting.leaf === l" @click="cutting.leaf = l">
        {{ l }}
      </button>
    </div>
    <BoardsPanel v-if="cutting.leaf === 'boards'" />
    <SoundPanel v-else-if="cutting.leaf === 'sound'" />
    <MarkersPanel v-else-if="cutting.leaf === 'markers'" />
    <RhythmPanel v-else-if="cutting.leaf === 'rhythm'" />
    <AssembliesPanel v-else-if="cutting.leaf === 'assemblies'" />
    <ShotPanel v-else />
  </section>
</template>
