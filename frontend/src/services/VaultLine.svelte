<!-- How the vault opens: by its key file, or by a passphrase; and opening it. -->
<script lang="ts">
  import { api, ask, problemOf, type About, type Problem } from '../api/client';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import Popover from '../ui/Popover.svelte';

  interface Props {
    about: About;
    onchange: (about: About) => void;
  }
  let { about, onchange }: Props = $props();
  let passphrase = $state('');
  let again = $state('');
  let old = $state('');
  let problem = $state<Problem | null>(null);

  async function give(call: Promise<About>, close?: () => void): Promise<void> {
    try {
      onchange(await call);
      problem = null;
      passphrase = again = old = '';
      close?.();
    } catch (error) {
      problem = problemOf(error);
    }
  }

  const set = (value: string | null) =>
    ask(
      api.PUT('/api/vault/passphrase', { body: { passphrase: value, old: old || null } }),
    ) as Promise<About>;
  const open = () => ask(api.POST('/api/vault/open', { body: { passphrase } })) as Promise<About>;
</script>

{#if about.vault === 'closed'}
  <form
    class="seen mt-3 flex items-center gap-3"
    onsubmit={(event) => {
      event.preventDefault();
      void give(open());
    }}
  >
    <span><strong>The vault is locked.</strong> Its keys are used again when you give the passphrase.</span>
    <input
      class="field"
      style="width: 220px"
      type="password"
      autocomplete="off"
      aria-label="Passphrase"
      bind:value={passphrase}
    />
    <button class="press main small" disabled={!passphrase}>Open the vault</button>
  </form>
  {#if problem}<div class="mt-2"><ProblemNote {problem} /></div>{/if}
{:else}
  <span class="muted text-[13px]">
    The vault opens with
    <Popover label="How the vault opens" look="phrase quiet" width={380}>
      {#snippet trigger()}{about.vault === 'passphrase' ? 'a passphrase' : 'its key file'}{/snippet}
      {#snippet children(close)}
        <form
          class="space-y-3"
          onsubmit={(event) => {
            event.preventDefault();
            void give(set(passphrase), close);
          }}
        >
          <p class="muted">
            Keys are encrypted in this workspace. The key file beside it opens them for whoever can read your
            files; a passphrase has to be typed once after each start, and without it the keys are lost.
          </p>
          {#if about.vault === 'passphrase'}
            <label class="block">
              <span class="label">The present passphrase</span>
              <input
                class="field"
                type="password"
                name="old-passphrase"
                autocomplete="current-password"
                bind:value={old}
              />
            </label>
          {/if}
          <label class="block">
            <span class="label"
              >{about.vault === 'passphrase' ? 'Another passphrase' : 'Passphrase'}, at least 8 characters</span
            >
            <input class="field" type="password" autocomplete="new-password" bind:value={passphrase} />
          </label>
          <label class="block">
            <span class="label">Repeat it</span>
            <input class="field" type="password" autocomplete="new-password" bind:value={again} />
          </label>
          {#if problem}<ProblemNote {problem} />{/if}
          <div class="flex gap-2">
            <button
              class="press main small"
              disabled={passphrase.length < 8 ||
                passphrase !== again ||
                (about.vault === 'passphrase' && !old)}>Use the passphrase</button
            >
            {#if about.vault === 'passphrase'}
              <button type="button" class="press small" disabled={!old} onclick={() => give(set(null), close)}
                >Use the key file again</button
              >
            {/if}
          </div>
        </form>
      {/snippet}
    </Popover>.
  </span>
{/if}
