<!-- A service that is added where a full address was put in that none has. -->
<script lang="ts">
  import { api, ask, problemOf, type Problem, type ServiceInfo } from '../api/client';
  import { blankService } from '../domain/limits';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    /** Scheme, host and port. */
    origin: string;
    onadded: (info: ServiceInfo) => void;
  }
  let { origin, onadded }: Props = $props();
  let problem = $state<Problem | null>(null);

  async function add(): Promise<void> {
    try {
      const about = await ask(api.GET('/api/about'));
      const service = { ...blankService(about.caller), name: new URL(origin).host, base: origin };
      onadded(await ask(api.POST('/api/services', { body: { service } })));
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<p class="seen">
  No service is at <code>{origin}</code> yet.
  <button type="button" class="press small" onclick={add}>Add it</button>
</p>
{#if problem}<ProblemNote {problem} />{/if}
