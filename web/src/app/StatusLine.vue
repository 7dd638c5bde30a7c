<script setup lang="ts">
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { rateName } from '@/ui/rates'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const camera = computed(() => scene.doc.nodes[head.airCamera])
const shot = computed(() => scene.shotOf(head.airShot))
const hint = computed(() => {
  if (view.drawing) return 'click adds a place · Enter ends the path · Esc leaves it'
  if (view.unlocked) return 'drag turns · Shift-drag moves · wheel dollies · Esc locks'
  if (view.through && view.desk === 'frame') return 'Esc back to scout · U unlock · 1–9 look through'
  if (head.take) return '1–9 or the wall put on air · Space ends the take'
  if (view.desk === 'splice') return '1–9 put on air · N next grip · [ ] nudge · X split · ? all keys'
  if (view.desk === 'frame') return '1–9 look through · D draw a path · A auto-key'
  return 'Space plays · , . step · J K L shuttle · ? all keys'
})
</script>
<template>
  <footer class="status">
    <span class="story" title="Story time"
      >◷ {{ core.timecode('story', head.story) }} <i>{{ Math.round(head.story) }}</i></span
    >
    <span class="screen" title="Screen time"
      >▷ {{ core.timecode('screen', head.screen) }} <i>{{ Math.round(head.screen) }}</i></span
    >
    <span class="dim">{{ rateName(scene.doc.settings.rate) }} f/s</span>
    <span v-if="camera?.camera || shot" class="air" role="status" aria-label="On air"
      ><i class="dot"></i
      ><CameraBadge v-if="camera?.camera" :number="camera.camera.number" :color="camera.camera.color" :size="16" />{{
        camera?.name ?? shot?.plays
      }}
      · {{ shot ? `shot ${shot.number}` : 'live' }}</span
    >
    <span v-else class="dim" role="status" aria-label="On air">nothing on air</span>
    <span class="gap"></span>
    <span class="dim">{{ hint }}</span>
  </footer>
</template>
<style scoped>
.status {
  display: flex;
  align-items: center;
  gap: 18px;
  height: 24px;
  padding: 0 12px;
  background: var(--ink);
  border-top: 1px solid var(--line);
  font: 12px var(--font-condensed);
  white-space: nowrap;
  overflow: hidden;
}
.story,
.screen {
  font-family: var(--font-mono);
}
i {
  font-style: normal;
  opacity: 0.75;
}
.air {
  display: flex;
  align-items: center;
  gap: 6px;
}
.dot {
  width: 8px;
  height: 8px;
  background: var(--vermilion);
}
.gap {
  flex: 1;
}
</style>
