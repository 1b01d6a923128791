<script lang="ts">
  import { page } from '$app/state';
  import TripPage from '$lib/trips/TripPage.svelte';
  const id = $derived(Number(page.params.id));
</script>

<svelte:head><title>Trip · Steady Lark</title></svelte:head>
<div class="bg-panel h-full overflow-y-auto">
  <div class="mx-auto max-w-[96rem]"><TripPage {id} /></div>
</div>
