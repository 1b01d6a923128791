<script lang="ts">
  import type { Attempt } from '$lib/state/attempt.svelte';
  import TextField from '$ui/TextField.svelte';

  /** A bank account: routing and account number, two columns of six each. */
  interface Props {
    routing: string;
    account: string;
    attempt: Attempt;
  }
  let { routing = $bindable(), account = $bindable(), attempt }: Props = $props();
</script>

<TextField
  class="col-span-2"
  label="Routing number"
  inputmode="numeric"
  bind:value={routing}
  maxlength={9}
  problem={attempt.at('routing')}
/>
<TextField
  class="col-span-2"
  label="Account number"
  bind:value={account}
  maxlength={17}
  problem={attempt.at('account')}
/>
