<template>
  <div class="nowhere">
    <h1>There is nothing at this address</h1>
    <p class="soft">
      It may be mistyped, or what stood here was removed. <RouterLink to="/">Go to Arrivals</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.nowhere {
  padding: 32px 18px;
}
</style>
