<!-- What somebody is told without looking: when, by which way, and what was sent. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import {
    api,
    ask,
    problemOf,
    type NoticeInfo,
    type Notices,
    type Problem,
    type Schemas,
  } from '../api/client';
  import { when } from '../domain/words/format';
  import Confirm from '../ui/Confirm.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import { whileSeen } from '../ui/whileSeen';
  import MailServerDialog from './MailServerDialog.svelte';
  import NoticeDialog from './NoticeDialog.svelte';

  let found = $state.raw<Notices | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let editing = $state.raw<NoticeInfo | 'new' | null>(null);
  let dropping = $state.raw<NoticeInfo | null>(null);
  let setting = $state(false);
  let secrets = $state.raw<Schemas['SecretOut'][]>([]);
  let opened = $state<number | null>(null);
  let busy = $state<number | null>(null);

  const fail = (error: unknown): void => {
    problem = problemOf(error);
  };
  const load = (): Promise<void> =>
    ask(api.GET('/api/notices')).then((told) => {
      found = told;
    }, fail);
  onMount(() => {
    document.title = 'Notices · Tin Bucket';
    void load();
    return whileSeen(load, 5000);
  });

  const wants = (info: NoticeInfo): boolean => info.notice.to.some((one) => one.by === 'mail');
  const unsent = $derived(!!found?.notices.some(wants) && !found.mail.server);
  const place = (one: NoticeInfo['notice']['to'][number]): string =>
    one.by === 'mail' ? one.addresses.join(', ') : (one.address.split('?')[0] ?? '');
  const sendsWords = { '': '', report: 'with a report', changes: 'with what changed' };
  const SIGNS: Record<string, string> = { sent: '✓', waiting: '…', failed: '✕' };

  async function trial(id: number): Promise<void> {
    busy = id;
    problem = null;
    try {
      found = await ask(api.POST('/api/notices/{notice_id}/trial', { params: { path: { notice_id: id } } }));
    } catch (error) {
      fail(error);
    }
    busy = null;
  }
  async function again(id: number): Promise<void> {
    try {
      found = await ask(
        api.POST('/api/notices/messages/{message_id}/again', { params: { path: { message_id: id } } }),
      );
    } catch (error) {
      fail(error);
    }
  }
  async function secret(id: number, address: string): Promise<void> {
    try {
      const params = { path: { notice_id: id } };
      secrets = [await ask(api.POST('/api/notices/{notice_id}/secret', { params, body: { address } }))];
    } catch (error) {
      fail(error);
    }
  }
  async function drop(id: number): Promise<void> {
    try {
      await ask(api.DELETE('/api/notices/{notice_id}', { params: { path: { notice_id: id } } }));
      await load();
    } catch (error) {
      fail(error);
    }
  }
</script>

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex flex-wrap items-center gap-3">
    <h1 class="flex-1 text-[19px] font-bold">Notices</h1>
    {#if found}
      <button class="press" onclick={() => (setting = true)}
        >Mail server: {found.mail.server ? found.mail.server.host : 'none yet'}</button
      >
      <button class="press main" onclick={() => (editing = 'new')}>New notice</button>
    {/if}
  </div>
  {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
  {#if unsent}
    <p class="warn mt-3">
      Mails wait: there is no mail server yet.
      <button class="plain" onclick={() => (setting = true)}>Enter one</button>
    </p>
  {/if}
  {#each secrets as one (one.address)}
    <div class="warn mt-3" role="status">
      The secret for {one.address} is shown this once. The other side verifies signatures with it (RFC 9421, HMAC-SHA256).
      <code>{one.secret}</code>
      <button class="press small" onclick={() => (secrets = secrets.filter((own) => own !== one))}
        >Noted</button
      >
    </div>
  {/each}
  {#if found && !found.notices.length}
    <div class="mx-auto mt-12 max-w-xl text-center">
      <p class="text-[15px]">Nobody is told anything yet.</p>
      <p class="muted mt-2">
        A notice goes out by mail or to a web hook when a refresh fails, rows change, a figure passes a bound
        or a key ends, once each. At times of its own it sends a report.
      </p>
    </div>
  {:else if found}
    <div class="relative overflow-x-auto">
      <table class="listing mt-4 w-full text-[13.5px]">
        <thead>
          <tr><th>Notice</th><th>When</th><th>To</th><th>Now</th><th><span class="sr-only">Do</span></th></tr>
        </thead>
        <tbody>
          {#each found.notices as one (one.id)}
            <tr class:off={one.notice.off}>
              <td class="cut" title={one.notice.name}
                ><button class="plain font-semibold" onclick={() => (editing = one)}>{one.notice.name}</button
                ></td
              >
              <td class="cut" title={one.words}
                >{one.words}{#if one.notice.sends}, {sendsWords[one.notice.sends]}{/if}</td
              >
              <td class="cut">
                {#each one.notice.to as way (place(way))}
                  <div title={place(way)}>
                    {place(way)}
                    {#if way.by === 'hook'}
                      <button class="plain" onclick={() => void secret(one.id, way.address)}
                        >new secret</button
                      >
                    {/if}
                  </div>
                {/each}
              </td>
              <td>
                {#if one.notice.off}<span class="muted">switched off</span>
                {:else if one.told}told, until it is over{:else}<span class="muted">nothing to tell</span
                  >{/if}
              </td>
              <td class="right">
                <button class="plain" disabled={busy === one.id} onclick={() => void trial(one.id)}
                  >Send a trial</button
                >
                · <button class="plain" onclick={() => (dropping = one)}>Delete</button>
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  {#if found?.messages.length}
    <h2 class="mt-6 mb-1 text-[15px] font-bold">What was sent</h2>
    <div class="relative overflow-x-auto">
      <table class="listing w-full text-[13.5px]">
        <thead>
          <tr
            ><th><span class="sr-only">State</span></th><th>Made</th><th>Says</th><th>To</th><th
              >How it went</th
            ></tr
          >
        </thead>
        <tbody>
          {#each found.messages as one (one.id)}
            <tr class:bad={one.state === 'failed' || !!one.problem}>
              <td title={one.state}
                ><span aria-hidden="true">{SIGNS[one.state]}</span><span class="sr-only">{one.state}</span
                ></td
              >
              <td>{when(one.made)}</td>
              <td class="cut">
                <button
                  class="plain"
                  aria-expanded={opened === one.id}
                  onclick={() => (opened = opened === one.id ? null : one.id)}>{one.title}</button
                >
                {#if opened === one.id}<pre>{one.text}</pre>{/if}
              </td>
              <td class="cut" title={one.place}>{one.place}</td>
              <td class="went">
                {#if one.state === 'sent'}sent {when(one.sent ?? one.made)}{one.tries > 1
                    ? `, at try ${one.tries}`
                    : ''}
                {:else}
                  {#if one.problem}{one.problem.what}
                    {one.problem.words} <span class="muted">{one.problem.do}</span>
                  {/if}
                  {#if one.state === 'waiting' && one.next_try}
                    {one.tries ? `Tried again ${when(one.next_try)}.` : `Sent ${when(one.next_try)}.`}
                  {/if}
                  <button class="plain" onclick={() => void again(one.id)}>Send it now</button>
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</div>

{#if editing}
  <NoticeDialog
    info={editing === 'new' ? null : editing}
    onclose={() => (editing = null)}
    onkept={(made) => {
      editing = null;
      secrets = made.secrets;
      void load();
    }}
  />
{/if}
{#if setting && found}
  <MailServerDialog
    mail={found.mail}
    onclose={() => (setting = false)}
    onkept={() => {
      setting = false;
      void load();
    }}
  />
{/if}
{#if dropping}
  {@const one = dropping}
  <Confirm
    title="Delete “{one.notice.name}”?"
    yes="Delete the notice"
    onyes={() => {
      void drop(one.id);
      dropping = null;
    }}
    onno={() => (dropping = null)}
    >Nobody is told of it any more; what waits to be sent for it is not sent.</Confirm
  >
{/if}

<style>
  .warn {
    padding: 8px 12px;
    border-radius: 8px;
    background: var(--straw-wash);
    font-size: 13.5px;
    overflow-wrap: anywhere;
  }
  .cut {
    max-width: 330px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .cut div {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .off {
    opacity: 0.7;
  }
  .bad .went {
    color: var(--straw-ink);
  }
  .went {
    white-space: normal;
  }
  pre {
    max-height: 260px;
    overflow: auto;
    margin-top: 5px;
    white-space: pre-wrap;
    font-family: inherit;
  }
</style>
