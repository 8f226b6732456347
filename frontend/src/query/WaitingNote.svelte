<!-- A run that waits for its key: which one, why, and the place to put the new one in. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, type Problem, type Progress, type ServiceInfo } from '../api/client';
  import KeyForm from '../parts/KeyForm.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    waiting: NonNullable<Progress['waiting']>;
    onstop: () => void;
  }
  let { waiting, onstop }: Props = $props();
  let info = $state.raw<ServiceInfo | null>(null);
  let stored = $state(false);

  onMount(() => {
    ask(api.GET('/api/services')).then(
      (all) => (info = all.find((one) => one.service.id === waiting.service_id) ?? null),
      () => (info = null),
    );
  });
</script>

<div class="m-3" aria-live="polite">
  <ProblemNote problem={waiting.problem as Problem}>
    {#if stored}
      <p class="mt-2 font-semibold">Stored. The refresh resumes where it stopped.</p>
    {:else}
      <p class="mt-2 font-semibold">
        The refresh is waiting for the key{info?.service.key
          ? ` “${info.service.key.name}” of ${info.service.name}`
          : ''}, and resumes with the new one.
      </p>
      {#if waiting.problem?.kind === 'vault-closed'}
        <a class="plain" href="#/services">Open the vault</a>
      {:else if info?.key}
        <div class="mt-2 max-w-md">
          <KeyForm
            service={info.service}
            fields={info.key.required_fields}
            asksEnd={false}
            onstored={() => (stored = true)}
          />
        </div>
      {/if}
      <button class="plain mt-2" onclick={onstop}>Stop the refresh instead</button>
    {/if}
  </ProblemNote>
</div>
