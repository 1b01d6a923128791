<script lang="ts">
  import { goto } from '$app/navigation';
  import { session } from '$lib/state/session.svelte';
  $effect(() => void goto(session.current?.driverId ? '/phone' : '/today', { replaceState: true }));
</script>
