<!-- Ways in which dates are written, for a field to choose from. -->
<script lang="ts">
  let { id }: { id: string } = $props();
</script>

<datalist {id}>
  <option value="seconds">seconds since 1970</option>
  <option value="milliseconds">milliseconds since 1970</option>
  <option value="%d.%m.%Y">24.11.2025</option>
  <option value="%d/%m/%Y">24/11/2025</option>
  <option value="%m/%d/%Y">11/24/2025</option>
  <option value="%Y%m%d">20251124</option>
  <option value="%d %b %Y">24 Nov 2025</option>
  <option value="%d.%m.%Y %H:%M">24.11.2025 07:30</option>
</datalist>
