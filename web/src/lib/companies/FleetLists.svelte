<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { equipmentLabels } from '$lib/loads/labels';

  /** Drivers, trucks and trailers, each leading to its form. */
  let { fleet, driverId }: { fleet: Schemas['FleetView']; driverId: number | null } = $props();
</script>

<div class="grid grid-cols-[1.6fr_1fr_1fr] gap-8 px-5">
  <div>
    <h2 class="text-mute mb-1 text-sm font-bold">Drivers <span class="fig">{fleet.drivers.length}</span></h2>
    <ul>
      {#each fleet.drivers as d (d.id)}<li
          class="border-line flex h-[30px] items-center gap-2 border-b {d.id === driverId ? 'bg-lark-tint/80' : ''}"
        >
          <span class="min-w-0 flex-1 truncate font-bold {d.active ? '' : 'text-mute line-through'}"
            ><a class="hover:underline" href="/setup?tab=fleet&driver={d.id}">{d.name}</a></span
          ><span class="text-mute truncate text-sm">{[d.group, d.homeTown].filter(Boolean).join(', ')}</span>
        </li>{:else}<li class="text-mute text-sm">None yet.</li>{/each}
    </ul>
  </div>
  <div>
    <h2 class="text-mute mb-1 text-sm font-bold">Trucks <span class="fig">{fleet.trucks.length}</span></h2>
    <ul>
      {#each fleet.trucks as t (t.id)}<li class="border-line flex h-[30px] items-center justify-between border-b">
          <a
            class="fig font-bold hover:underline {t.active ? '' : 'text-mute line-through'}"
            href="/setup?tab=fleet&truck={t.id}">{t.unit}</a
          ><span class="text-mute text-sm">{t.make ?? ''}</span>
        </li>{:else}<li class="text-mute text-sm">None yet.</li>{/each}
    </ul>
  </div>
  <div>
    <h2 class="text-mute mb-1 text-sm font-bold">Trailers <span class="fig">{fleet.trailers.length}</span></h2>
    <ul>
      {#each fleet.trailers as t (t.id)}<li class="border-line flex h-[30px] items-center justify-between border-b">
          <a
            class="fig font-bold hover:underline {t.active ? '' : 'text-mute line-through'}"
            href="/setup?tab=fleet&trailer={t.id}">{t.unit}</a
          ><span class="text-mute ml-3 truncate text-sm" title={t.features?.join(', ')}
            >{[equipmentLabels[t.equipment ?? ''], ...(t.features ?? [])].join(', ')}</span
          >
        </li>{:else}<li class="text-mute text-sm">None yet.</li>{/each}
    </ul>
  </div>
</div>
