/** The light or dark theme: read by charts, changed by the switch in the frame. */
class Mode {
	current = $state<'light' | 'dark'>('light');

	/** Takes the theme set before the first paint (app.html). */
	read(): void {
		this.current = document.documentElement.dataset.mode === 'dark' ? 'dark' : 'light';
	}

	/** Changes the theme and stores it in this browser. */
	toggle(): void {
		this.current = this.current === 'dark' ? 'light' : 'dark';
		document.documentElement.dataset.mode = this.current;
		localStorage.setItem('mode', this.current);
	}
}

export const mode = new Mode();
