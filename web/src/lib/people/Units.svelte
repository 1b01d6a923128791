<script lang="ts">
  import UnitList from './UnitList.svelte';
</script>

<!-- Offices and driver groups, which divide loads, drivers and users' views. -->
<div class="grid max-w-4xl grid-cols-2 gap-8 px-5">
  <UnitList
    kind="offices"
    title="Offices"
    note="Each user has one; a load has the office of whoever books it, unless another is chosen. Lists filter by it."
  />
  <UnitList
    kind="driver-groups"
    title="Driver groups"
    note="Each driver is in one. A user's view can be limited to offices or groups, under Users."
  />
</div>
