<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import CompanyFields, { type CompanyDraft } from '$lib/people/CompanyFields.svelte';
  import NewPassword from '$lib/people/NewPassword.svelte';
  import Wordmark from '$lib/people/Wordmark.svelte';
  import { requireSame } from '$lib/people/password';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { ownZone } from '$lib/time/zones';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Where a one-time link leads: the first run, an invitation, a password reset. */
  const token = $derived(page.params.token ?? '');
  const path = $derived({ params: { path: { token } } });
  let link = $state<Schemas['AccountLinkView'] | null>(null);
  let gone = $state('');
  let company = $state<CompanyDraft>({
    name: '',
    address: '',
    phone: '',
    email: '',
    usdot: '',
    mcNumber: '',
    zone: ownZone(),
    logo: '',
  });
  let owner = $state({ name: '', login: '', email: '' });
  let password = $state('');
  let repeated = $state('');
  const attempt = new Attempt();

  $effect(() => {
    take(api.GET('/api/account-links/{token}', path))
      .then((l) => (link = l))
      .catch((e) => (gone = e instanceof Refused ? e.message : 'This link could not be loaded. Try again.'));
  });
  const go = () =>
    attempt.run(async () => {
      requireSame(password, repeated);
      const { name, ...rest } = company;
      const done =
        link?.kind === 'first_run'
          ? await take(
              api.POST('/api/account-links/{token}/company', {
                ...path,
                body: {
                  company: name,
                  ...rest,
                  logo: rest.logo || null,
                  name: owner.name,
                  login: owner.login,
                  ownerEmail: owner.email,
                  password,
                },
              }),
            )
          : await take(api.POST('/api/account-links/{token}/password', { ...path, body: { password } }));
      await goto(`/signin?as=${encodeURIComponent(done.login ?? '')}`);
    });
  const title = $derived(
    !link
      ? 'Steady Lark'
      : link.kind === 'first_run'
        ? 'Set up your company'
        : link.kind === 'invitation'
          ? `Welcome to ${link.company}`
          : 'Choose a new password',
  );
</script>

<svelte:head><title>{title} · Steady Lark</title></svelte:head>
<main class="mx-auto max-w-xl p-6">
  <Wordmark />
  <h1 class="mb-3 text-xl font-bold">{title}</h1>
  {#if gone}
    <p role="alert">{gone}</p>
    <p class="mt-3"><a class="text-lark hover:underline" href="/signin">Go to sign in</a></p>
  {:else if link}
    <form
      class="grid grid-cols-2 gap-3"
      onsubmit={(e) => {
        e.preventDefault();
        void go();
      }}
    >
      {#if link.kind === 'first_run'}
        <p class="col-span-2">
          These details appear on your invoices, rate confirmations and emails. You can change them later in Setup.
        </p>
        <CompanyFields bind:draft={company} at={(f) => attempt.at(f)} nameField="company" />
        <h2 class="border-line col-span-2 mt-2 border-t pt-3 font-bold">Your own account</h2>
        <TextField
          label="Your name"
          bind:value={owner.name}
          required
          autocomplete="name"
          problem={attempt.at('name')}
        />
        <TextField
          label="Username"
          bind:value={owner.login}
          required
          autocomplete="username"
          autocapitalize="none"
          problem={attempt.at('login')}
        />
        <TextField
          class="col-span-2"
          label="Your email"
          type="email"
          bind:value={owner.email}
          required
          hint="Links to reset your password go here."
          problem={attempt.at('ownerEmail')}
        />
      {:else}
        <p class="col-span-2">{link.name}, your username is <b>{link.login}</b>.</p>
        <input class="hidden" autocomplete="username" value={link.login ?? ''} readonly />
      {/if}
      <NewPassword bind:password bind:repeated at={(f) => attempt.at(f)} />
      {#if attempt.refused?.general}
        <p class="text-ember-word col-span-2" role="alert">{attempt.refused.general}</p>
      {/if}
      <div class="col-span-2">
        <Button look="main" type="submit" busy={attempt.busy}
          >{link.kind === 'first_run' ? 'Create the company' : 'Set password'}</Button
        >
      </div>
    </form>
  {:else}<p class="text-mute" role="status">Loading …</p>{/if}
</main>
