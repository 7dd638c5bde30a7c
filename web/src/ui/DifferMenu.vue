<script setup lang="ts">
// What can be done about differences: taken back, put into what lies below, copied.
import { useAlternates } from '@/stores/alternates'
import { useScene } from '@/stores/scene'

const props = defineProps<{
  /** Differences, and the fields of them that are meant, if not all are. */
  ids: string[]
  fields?: string[]
  /** Layers that they can be copied to. */
  others: { id: string; name: string }[]
}>()
const alternates = useAlternates()
const scene = useScene()
const chosen = () => ({ ids: props.ids, ...(props.fields ? { fields: props.fields } : {}) })
</script>
<template>
  <el-dropdown trigger="click" size="small">
    <slot />
    <template #dropdown>
      <el-dropdown-menu>
        <el-dropdown-item @click="scene.run('differencesBack', chosen())"
          >As in {{ alternates.below }}</el-dropdown-item
        >
        <el-dropdown-item @click="scene.run('differencesDown', chosen())"
          >Put into {{ alternates.below }}</el-dropdown-item
        >
        <el-dropdown-item
          v-for="a in others"
          :key="a.id"
          @click="scene.run('differencesCopy', { ...chosen(), to: a.id })"
          >Copy to {{ a.name }}</el-dropdown-item
        >
      </el-dropdown-menu>
    </template>
  </el-dropdown>
</template>
