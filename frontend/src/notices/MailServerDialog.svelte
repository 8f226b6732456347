<!-- The mail server that notices go out by. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { api, ask, problemOf, type Problem, type Schemas } from '../api/client';
  import Dialog from '../ui/Dialog.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    mail: Schemas['MailServerInfo'];
    onclose: () => void;
    onkept: () => void;
  }
  let { mail, onclose, onkept }: Props = $props();
  type Server = Schemas['MailServer'];
  let server = $state<Server>(
    untrack(() => ({
      ...(mail.server ?? { host: '', port: 465, secure: 'tls', user: '', sender: '', certificate: '' }),
    })),
  );
  let password = $state('');
  let problem = $state.raw<Problem | null>(null);

  async function keep(next: Server | null): Promise<void> {
    problem = null;
    try {
      await ask(api.PUT('/api/notices/mail', { body: { server: next, password: password || null } }));
      onkept();
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<Dialog title="The mail server" open {onclose} width={560} holds>
  <form
    class="space-y-3 text-[13.5px]"
    onsubmit={(event) => {
      event.preventDefault();
      void keep($state.snapshot(server));
    }}
  >
    <div class="flex flex-wrap gap-3">
      <label class="min-w-0 flex-1"
        ><span class="label">Host</span>
        <input
          class="field mono"
          name="mail-host"
          required
          placeholder="smtp.example.org"
          bind:value={server.host}
        /></label
      >
      <label style="width: 90px"
        ><span class="label">Port</span>
        <input
          class="field"
          type="number"
          min="1"
          max="65535"
          name="mail-port"
          required
          bind:value={server.port}
        /></label
      >
      <label
        ><span class="label">Encryption</span>
        <select class="field" name="mail-secure" bind:value={server.secure}>
          <option value="tls">TLS</option>
          <option value="starttls">STARTTLS</option>
          <option value="none">none, on this machine alone</option>
        </select></label
      >
    </div>
    <label class="block"
      ><span class="label">Mails come from</span>
      <input
        class="field"
        name="mail-sender"
        required
        placeholder="tin-bucket@example.org"
        bind:value={server.sender}
      /></label
    >
    <div class="flex flex-wrap gap-3">
      <label class="min-w-0 flex-1"
        ><span class="label">User; empty where it wants none</span>
        <input class="field" name="mail-user" autocomplete="off" bind:value={server.user} /></label
      >
      <label class="min-w-0 flex-1"
        ><span class="label">Password{mail.has_password ? '; the stored one stays if empty' : ''}</span>
        <input
          class="field"
          type="password"
          name="mail-password"
          autocomplete="new-password"
          bind:value={password}
        /></label
      >
    </div>
    <details open={!!server.certificate}>
      <summary>A certificate to trust besides</summary>
      <textarea
        class="field mono mt-1"
        rows="4"
        name="mail-certificate"
        aria-label="Certificate, as PEM"
        placeholder="-----BEGIN CERTIFICATE-----"
        bind:value={server.certificate}></textarea>
    </details>
    <p class="muted">The password is kept in the vault, and goes to this server alone.</p>
    {#if problem}<ProblemNote {problem} />{/if}
    <div class="flex gap-2">
      <button class="press main">Use it</button>
      {#if mail.server}<button type="button" class="press" onclick={() => void keep(null)}>Use none</button
        >{/if}
      <button type="button" class="press" onclick={onclose}>Cancel</button>
    </div>
  </form>
</Dialog>
