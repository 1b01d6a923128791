<script lang="ts">
  import { goto } from '$app/navigation';
  import { session } from '$lib/state/session.svelte';
  $effect(() => void goto(session.current?.role === 'driver' ? '/phone' : '/today', { replaceState: true }));
</script>
