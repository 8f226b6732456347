<script lang="ts">
  import Router from 'svelte-spa-router';
  import { loadChoices } from './shell/loadChoices';
  import { problemOf } from './api/client';
  import ComparePage from './compare/ComparePage.svelte';
  import CompareTablesPage from './compare/CompareTablesPage.svelte';
  import FeedsPage from './feeds/FeedsPage.svelte';
  import ChangesPage from './desk/ChangesPage.svelte';
  import DeskPage from './desk/DeskPage.svelte';
  import QueryPage from './query/QueryPage.svelte';
  import NoticesPage from './notices/NoticesPage.svelte';
  import ReportPage from './reports/ReportPage.svelte';
  import ReportsPage from './reports/ReportsPage.svelte';
  import RunsPage from './runs/RunsPage.svelte';
  import ServicesPage from './services/ServicesPage.svelte';
  import FigurePage from './history/FigurePage.svelte';
  import StoryPage from './history/StoryPage.svelte';
  import SheetsPage from './sheets/SheetsPage.svelte';
  import LostPage from './shell/LostPage.svelte';
  import TopBar from './shell/TopBar.svelte';
  import { keepsFocus } from './ui/focus';
  import ProblemNote from './ui/ProblemNote.svelte';

  const routes = {
    '/': DeskPage,
    '/services': ServicesPage,
    '/sheets': SheetsPage,
    '/feeds': FeedsPage,
    '/notices': NoticesPage,
    '/reports': ReportsPage,
    '/report/:id': ReportPage,
    '/runs': RunsPage,
    '/compare': CompareTablesPage,
    '/changes': ChangesPage,
    '/query/:id': QueryPage,
    '/query/:id/compare': ComparePage,
    '/query/:id/row': StoryPage,
    '/query/:id/through-time': FigurePage,
    '*': LostPage,
  };
  let main = $state<HTMLElement>();
  let loading = $state(loadChoices());
</script>

<div class="flex h-full flex-col" style="background: var(--page)">
  <TopBar onskip={() => main?.focus()} />
  <main class="min-h-0 flex-1 outline-none" bind:this={main} tabindex="-1" use:keepsFocus>
    {#await loading then}
      <Router {routes} />
    {:catch error}
      <div class="mx-auto max-w-xl space-y-3 p-6">
        <ProblemNote problem={problemOf(error)} />
        <button class="press" onclick={() => (loading = loadChoices())}>Try again</button>
      </div>
    {/await}
  </main>
</div>
