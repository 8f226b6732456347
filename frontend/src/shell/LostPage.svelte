<script lang="ts">
  document.title = 'Nothing here · Tin Bucket';
</script>

<div class="p-10">
  <h1 class="text-xl font-bold">There is nothing here</h1>
  <p class="mt-2">There is no page at this address. <a class="plain" href="#/">Go to the desk</a>.</p>
</div>
