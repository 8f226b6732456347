<!-- What can be done with a line as a whole. -->
<script lang="ts">
  import Ellipsis from '@lucide/svelte/icons/ellipsis-vertical';
  import Popover from '../ui/Popover.svelte';

  interface Props {
    index: number;
    total: number;
    off: boolean;
    onedit: () => void;
    onswitch: () => void;
    onmove: (by: number) => void;
    oncopy: () => void;
    ondrop: () => void;
  }
  let { index, total, off, onedit, onswitch, onmove, oncopy, ondrop }: Props = $props();
</script>

<span class="menu">
  <Popover label="Line {index + 1}" look="dots" width={170} placement="bottom-end" icon>
    {#snippet trigger()}<Ellipsis size={15} />{/snippet}
    {#snippet children(close)}
      {@const act = (work: () => void) => () => {
        close();
        work();
      }}
      <div class="deeds">
        <button data-first onclick={act(onedit)}>Edit</button>
        <button onclick={act(onswitch)}>{off ? 'Switch on' : 'Switch off'}</button>
        <button disabled={index === 0} onclick={act(() => onmove(-1))}>Move up</button>
        <button disabled={index === total - 1} onclick={act(() => onmove(1))}>Move down</button>
        <button onclick={act(oncopy)}>Copy</button>
        <button onclick={act(ondrop)}>Remove</button>
      </div>
    {/snippet}
  </Popover>
</span>

<style>
  .menu {
    margin-right: -5px;
    align-self: center;
  }
  .menu :global(.dots) {
    display: block;
    padding: 1px 2px;
    color: var(--muted);
    cursor: pointer;
    border-radius: 4px;
  }
  .menu :global(.dots:hover) {
    color: var(--damson);
  }
  .deeds {
    display: flex;
    flex-direction: column;
  }
  .deeds button {
    padding: 4px 6px;
    border-radius: 5px;
    text-align: left;
    cursor: pointer;
  }
  .deeds button:hover:not(:disabled) {
    background: var(--damson-wash);
  }
  .deeds button:disabled {
    color: var(--muted);
    cursor: default;
  }
</style>
