<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import Part from '$ui/Part.svelte';
  import { feet } from './visits';

  /** What is in each compartment of a trailer, or on each of its decks, after each visit. */
  interface Props {
    sheet: Schemas['TripSheet'];
    loading: Schemas['TripLoading'];
  }
  let { sheet, loading }: Props = $props();
  const tank = $derived(loading.places.some((p) => p.gallons !== null));
  const amount = (n: number) => n.toLocaleString('en-US');
  /** Each load has a shade of its own; its number stands below, so that no shade is needed to read it. */
  const loads = $derived([
    ...new Set(loading.after.flatMap((a) => a.places.flatMap((p) => p.freight.map((f) => f.load)))),
  ]);
  const fills = ['bg-lark/25', 'bg-ink/15', 'bg-lark/45', 'bg-ink/30', 'bg-lark/10', 'bg-ink/45'];
  const fill = (load: string) => fills[loads.indexOf(load) % fills.length];
  const part = (f: Schemas['LoadedFreight'], p: Schemas['LoadingPlace']) =>
    Math.min(100, ((tank ? f.amount : f.lengthIn) / (p.gallons ?? p.lengthIn ?? 1)) * 100);
  const room = (a: Schemas['PlaceAfter']) =>
    tank ? `${amount(a.room)} gal left` : `${feet(a.room)} · ${amount(a.roomLb ?? 0)} lb left`;
  const axles = (a: Schemas['AxleWeights']) =>
    [
      ['steer', a.steerLb],
      ['drive', a.driveLb],
      ['trailer', a.trailerLb],
    ] as const;
  const what = (v: Schemas['TripVisit']) => (v.own ? (v.own.kind === 'wash' ? 'wash' : '') : v.kind);
  /** Visits that change nothing on the trailer are left out. */
  const rows = $derived(
    sheet.visits
      .map((visit, i) => ({ visit, after: loading.after[i] }))
      .filter((r) => !r.visit.own || r.visit.own.kind === 'wash'),
  );
</script>

{#if loads.length > 0 || loading.problems.length > 0}
  <Part
    title={`${tank ? 'Compartments' : 'Decks'}${sheet.trailers.length > 1 ? ` of trailer ${loading.trailer}` : ''}`}
  >
    {#each loading.problems as said (said)}<p class="text-ember-word text-sm" role="alert">{said}</p>{/each}
    {#if loading.problems.length === 0}
      <div class="overflow-x-auto">
        <table class="w-full min-w-[36rem] table-fixed text-sm">
          <thead>
            <tr class="text-mute text-left align-bottom">
              <th class="w-32 pb-1 font-normal">After</th>
              {#each loading.places as p (p.name)}
                <th class="pr-1.5 pb-1 font-normal"
                  ><b class="text-ink">{tank ? `No. ${p.name}` : p.name}</b><span class="fig block"
                    >{tank ? `${amount(p.gallons ?? 0)} gal` : feet(p.lengthIn ?? 0)}</span
                  >{#if p.heightIn}<span class="fig block">{feet(p.heightIn)} high</span>{/if}</th
                >
              {/each}
              {#if tank}<th class="w-28 pb-1 font-normal">Axles, lb<span class="block">estimated</span></th>{/if}
            </tr>
          </thead>
          <tbody>
            {#each rows as { visit, after } (visit.id)}
              <tr class="border-line border-t align-top">
                <th class="py-1.5 pr-2 text-left font-normal"
                  ><b>{visit.town}</b><span class="text-mute block">{what(visit)} {visit.load ?? ''}</span>
                </th>
                {#each after?.places ?? [] as a, i (i)}
                  <td class="py-1.5 pr-1.5">
                    <span class="border-mute flex h-7 overflow-hidden rounded-sm border" aria-hidden="true">
                      {#each a.freight as f, n (n)}<span
                          class="border-mute h-full border-r {fill(f.load)}"
                          style:width="{part(f, loading.places[i])}%"
                        ></span>{/each}
                    </span>
                    {#each a.freight as f, n (n)}<span class="block leading-tight"
                        >{tank ? `${amount(f.amount)} gal ` : ''}{f.what}
                        <a
                          class="text-lark fig underline"
                          href="/load/{sheet.loads.find((l) => l.load === f.load)?.loadId}">{f.load}</a
                        ></span
                      >{/each}
                    {#if a.wash}<b class="text-marigold-word block">wash here</b>{/if}
                    <span class="text-mute block">{a.freight.length ? room(a) : 'empty'}</span>
                  </td>
                {/each}
                {#if tank}<td class="py-1.5"
                    >{#if after?.axles}<dl class="text-mute grid grid-cols-[auto_1fr] gap-x-1">
                        {#each axles(after.axles) as [name, lb] (name)}<dt>{name}</dt>
                          <dd class="fig text-right">{amount(lb)}</dd>{/each}
                      </dl>{/if}</td
                  >{/if}
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
  </Part>
{/if}
