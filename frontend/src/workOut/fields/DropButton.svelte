<!-- Takes a row of a form away; it keeps its place where the row must stay. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';

  interface Props {
    label: string;
    disabled?: boolean;
    onclick: () => void;
  }
  let { label, disabled = false, onclick }: Props = $props();
</script>

<button type="button" aria-label={label} {disabled} {onclick}><X size={14} /></button>

<style>
  button {
    min-height: 31px;
    color: var(--muted);
    cursor: pointer;
  }
  button:disabled {
    visibility: hidden;
  }
</style>
