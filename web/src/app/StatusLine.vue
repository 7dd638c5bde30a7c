<script setup lang="ts">
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { commands, useKeys } from '@/stores/keys'
import { useView, type Desk } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { rateName } from '@/ui/rates'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const camera = computed(() => scene.doc.nodes[head.airCamera])
const shot = computed(() => scene.shotOf(head.airShot))
/** Commands that are told on each desk, in a word or two. */
const told: Record<Desk, [words: string, short: string][]> = {
  dress: [
    ['play or pause', 'plays'],
    ['one frame back', 'back'],
    ['one frame on', 'on'],
    ['draw a path for the selection', 'draws a path'],
  ],
  frame: [
    ['put a camera here', 'puts a camera here'],
    ['add a position to the move', 'a position'],
    ['draw a path for the selection', 'draws a path'],
    ['auto-key on or off', 'auto-key'],
  ],
  splice: [
    ['what a drag does next', 'what a drag does'],
    ['split the shot at the playhead', 'splits'],
    ['add a shot at the end', 'adds a shot'],
    ['record a live take', 'live take'],
  ],
  turnover: [['play or pause', 'plays']],
}
const { shownOf } = useKeys()
const key = (words: string) => {
  const c = commands.value.find((x) => x.words === words)
  return c ? shownOf(c, view.desk) : ''
}
const hint = computed(() => {
  if (view.numbering !== null) return `camera ${view.numbering}… · Enter takes it · Esc leaves it`
  if (view.drawing) return 'click adds a place · Enter ends the path · Esc leaves it'
  if (view.unlocked) return 'drag turns · Shift-drag moves · wheel dollies · Esc locks'
  if (view.through && view.desk === 'frame')
    return `Esc back to scout · ${key('unlock the camera for moving')} unlock · 1–9 look through`
  if (head.take) return '1–9 or the wall put on air · Space ends the take'
  const digits = view.desk === 'splice' ? ['1–9 put on air'] : view.desk === 'frame' ? ['1–9 look through'] : []
  const keys = told[view.desk].flatMap(([words, short]) => (key(words) ? [`${key(words)} ${short}`] : []))
  const all = key('this sheet') ? [`${key('this sheet')} all keys`] : []
  return [...digits, ...keys, ...all].join(' · ')
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
