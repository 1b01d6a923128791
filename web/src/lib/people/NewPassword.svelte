<script lang="ts">
  import TextField from '$ui/TextField.svelte';

  interface Props {
    password: string;
    repeated: string;
    at: (field: string) => string | undefined;
  }
  /** A new password, entered twice. The server decides whether it is acceptable. */
  let { password = $bindable(), repeated = $bindable(), at }: Props = $props();
</script>

<TextField
  label="New password"
  type="password"
  bind:value={password}
  required
  autocomplete="new-password"
  problem={at('password')}
/>
<TextField
  label="Repeat the password"
  type="password"
  bind:value={repeated}
  required
  autocomplete="new-password"
  problem={at('repeated')}
/>
<p class="text-mute col-span-2 -mt-2 text-sm">At least 12 characters; several unrelated words are good.</p>
