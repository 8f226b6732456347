<script lang="ts">
  import Router from 'svelte-spa-router';
  import TopBar from './parts/TopBar.svelte';
  import ComparePage from './pages/ComparePage.svelte';
  import DeskPage from './pages/DeskPage.svelte';
  import LostPage from './pages/LostPage.svelte';
  import QueryPage from './pages/QueryPage.svelte';
  import RunsPage from './pages/RunsPage.svelte';
  import ServicesPage from './pages/ServicesPage.svelte';
  import SheetsPage from './pages/SheetsPage.svelte';

  const routes = {
    '/': DeskPage,
    '/services': ServicesPage,
    '/sheets': SheetsPage,
    '/runs': RunsPage,
    '/query/:id': QueryPage,
    '/query/:id/compare': ComparePage,
    '*': LostPage,
  };
</script>

<div class="flex h-full flex-col" style="background: var(--page)">
  <TopBar />
  <main class="min-h-0 flex-1">
    <Router {routes} />
  </main>
</div>
