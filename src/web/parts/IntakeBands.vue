<script setup lang="ts">
import { useDeliveries } from '../stores/deliveries.ts';
import IntakeBand from './IntakeBand.vue';

/** Every delivery under way, and those of this page that ended, newest first. */
const deliveries = useDeliveries();
</script>

<template>
  <IntakeBand
    v-for="one in deliveries.all"
    :key="one.view?.id ?? one.number"
    :delivery="one"
    @stop="deliveries.stop(one)"
    @close="deliveries.close(one)"
  />
</template>
