<script lang="ts">
  import { goto } from '$app/navigation';
  $effect(() => void goto('/today', { replaceState: true }));
</script>
