<script lang="ts">
  import { goto } from '$app/navigation';
  import List from '$lib/lists/List.svelte';
  import Head from '$ui/Head.svelte';
  import { planTabs } from '$lib/plan/plan';
</script>

<svelte:head><title>Trips · Steady Lark</title></svelte:head>
<section class="flex h-full min-w-0 flex-col">
  <Head
    title="Plan"
    tabs={planTabs(null)}
    tab="trips"
    ontab={(t) => void goto(t === 'trips' ? '/plan/trips' : `/plan?by=${t}`)}
  />
  <div class="min-h-0 flex-1"><List list="trips" onopen={(id) => void goto(`/trip/${id}`)} /></div>
</section>
