<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { equipmentLabels } from '$lib/loads/labels';
  import Button from '$ui/Button.svelte';

  /** Which loads each kind of trailer hauls. */
  type Kind = Schemas['Equipment'];
  const kinds = Object.keys(equipmentLabels) as Kind[];
  let also = $state<Record<string, boolean>>({});
  const attempt = new Attempt();
  const key = (trailer: Kind, load: Kind) => `${trailer} ${load}`;
  $effect(() => {
    take(api.GET('/api/equipment-matches'))
      .then((matches) => (also = Object.fromEntries(matches.map((m) => [key(m.trailer, m.load), true]))))
      .catch(showError);
  });
  const save = () =>
    attempt.run(async () => {
      const matches = kinds.flatMap((trailer) =>
        kinds.filter((load) => also[key(trailer, load)]).map((load) => ({ trailer, load })),
      );
      await take(api.PUT('/api/equipment-matches', { body: { matches } }));
      showDone('Equipment saved.');
    });
</script>

<form
  class="mt-8 px-5"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <h2 class="text-mute mb-1 text-sm font-bold">What each trailer hauls</h2>
  <table class="text-sm">
    <thead>
      <tr
        ><th class="text-mute pr-4 text-left font-normal">Trailer</th>{#each kinds as load (load)}<th
            class="text-mute w-24 px-2 text-left font-normal">{equipmentLabels[load]} loads</th
          >{/each}</tr
      >
    </thead>
    <tbody>
      {#each kinds as trailer (trailer)}
        <tr class="border-line border-b">
          <th class="h-[30px] pr-4 text-left font-bold">{equipmentLabels[trailer]}</th>
          {#each kinds as load (load)}
            <td class="px-2">
              <input
                type="checkbox"
                aria-label="A {equipmentLabels[trailer]} hauls {equipmentLabels[load]} loads"
                disabled={trailer === load || !session.may('setup.edit')}
                checked={trailer === load || also[key(trailer, load)]}
                onchange={(e) => (also[key(trailer, load)] = e.currentTarget.checked)}
              />
            </td>
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
  {#if attempt.refused}<p class="text-ember-word mt-1 text-sm" role="alert">{attempt.refused.message}</p>{/if}
  {#if session.may('setup.edit')}<div class="mt-2">
      <Button small type="submit" busy={attempt.busy}>Save equipment</Button>
    </div>{/if}
</form>
