<p class="p-5">One moment …</p>
