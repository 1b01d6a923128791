<script lang="ts">
  import { page } from '$app/state';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import CoverPanel from '$lib/loads/CoverPanel.svelte';
  import { session } from '$lib/state/session.svelte';
  const id = $derived(Number(page.params.id));
</script>

<svelte:head><title>Load · Steady Lark</title></svelte:head>
<div class="bg-panel h-full overflow-y-auto">
  <div class="mx-auto max-w-[96rem]">
    <LoadSheet {id} whole>
      {#snippet top(view)}
        {#if view.sheet.load.state === 'booked' && session.may('loads.cover')}<CoverPanel {view} />{/if}
      {/snippet}
    </LoadSheet>
  </div>
</div>
