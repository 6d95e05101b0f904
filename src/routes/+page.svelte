<p>Kovrel</p>
