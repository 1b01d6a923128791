<script lang="ts">
  import PlanPage from '$lib/plan/PlanPage.svelte';
</script>

<PlanPage />
