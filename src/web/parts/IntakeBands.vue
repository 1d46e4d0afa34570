<script setup lang="ts">
import { useDeliveries } from '../stores/deliveries.ts';
import IntakeBand from './IntakeBand.vue';

/** Every delivery of this page, newest first. */
const deliveries = useDeliveries();
</script>

<template>
  <IntakeBand
    v-for="one in deliveries.all"
    :key="one.id"
    :delivery="one"
    @stop="deliveries.stop(one.id)"
    @close="deliveries.close(one.id)"
  />
</template>
