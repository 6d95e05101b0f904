<!-- a keyboard link past the frame, to `#work` -->
<a class="bg-stamp text-on-stamp absolute -top-20 left-0 z-50 p-2 focus:top-0" href="#work">Skip to content</a>
