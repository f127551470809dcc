<script setup lang="ts">
import SignInAgain from './SignInAgain.vue'
import { useTheme } from './theme'

useTheme()
</script>

<template>
  <RouterView />
  <SignInAgain />
</template>
