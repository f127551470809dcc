<script setup lang="ts">
import { useTheme } from './theme'

useTheme()
</script>

<template>
  <RouterView />
</template>
