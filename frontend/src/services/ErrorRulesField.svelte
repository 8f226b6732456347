<!-- A service's own rules for errors inside answers whose status says that all is well. -->
<script lang="ts">
  import type { Fault } from '../domain/limits';

  interface Props {
    error_rules: Fault[];
  }
  let { error_rules = $bindable() }: Props = $props();
</script>

<div>
  <span class="label">An answer is an error when one of these places holds something</span>
  {#each error_rules as fault, at (at)}
    <div class="mt-1 flex items-center gap-2">
      <input
        class="field mono"
        aria-label="Place of error {at + 1}"
        placeholder="$.errors"
        bind:value={fault.at}
        required
      />
      <input
        class="field mono"
        aria-label="Message of error {at + 1}"
        placeholder="its message: found automatically"
        value={fault.words ?? ''}
        onchange={(event) => (fault.words = event.currentTarget.value.trim() || null)}
      />
      <button
        type="button"
        class="plain"
        onclick={() => (error_rules = error_rules.filter((_, index) => index !== at))}>remove</button
      >
    </div>
  {/each}
  <button
    type="button"
    class="plain mt-1"
    onclick={() => (error_rules = [...error_rules, { at: '', words: null }])}
    >{error_rules.length ? 'add another rule' : 'add a rule'}</button
  >
</div>
