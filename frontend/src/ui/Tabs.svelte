<!-- Tabs with something at their right end, and something above what they show (Skeleton's Tabs). -->
<script lang="ts" generics="Name extends string">
  import { Tabs } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';

  interface Props {
    value: Name;
    tabs: readonly (readonly [Name, string])[];
    aside?: Snippet;
    above?: Snippet;
    /** Inside a popover: without a band of their own. */
    small?: boolean;
    children: Snippet<[Name]>;
  }
  let { value = $bindable(), tabs, aside, above, small = false, children }: Props = $props();
</script>

<Tabs
  {value}
  onValueChange={(details) => (value = details.value as Name)}
  class="flex min-h-0 min-w-0 flex-1 flex-col"
>
  <div class="tabs" class:small>
    <Tabs.List class="contents">
      {#each tabs as [key, words] (key)}<Tabs.Trigger value={key} class="tab">{words}</Tabs.Trigger>{/each}
    </Tabs.List>
    {@render aside?.()}
  </div>
  {@render above?.()}
  <Tabs.Content {value} class="min-h-0 flex-1" tabindex={-1}>{@render children(value)}</Tabs.Content>
</Tabs>

<style>
  .tabs {
    display: flex;
    align-items: center;
    gap: 18px;
    height: 36px;
    flex: none;
    padding: 0 14px;
    border-bottom: 1px solid var(--line);
    background: var(--page);
  }
  @media (max-width: 700px) {
    .tabs {
      flex-wrap: wrap;
      gap: 0 16px;
      height: auto;
      min-height: 36px;
    }
  }
  .tabs :global(.tab) {
    height: 36px;
    color: var(--muted);
    border-bottom: 3px solid transparent;
    padding-top: 3px;
    cursor: pointer;
  }
  .tabs :global(.tab[aria-selected='true']) {
    color: var(--damson);
    border-bottom-color: var(--damson);
    font-weight: 600;
  }
  .tabs.small {
    gap: 16px;
    height: auto;
    margin: -4px 0 10px;
    padding: 0;
    border-bottom-color: var(--hair);
    background: none;
  }
  .tabs.small :global(.tab) {
    height: auto;
    padding: 3px 0;
    border-bottom-width: 2px;
  }
</style>
