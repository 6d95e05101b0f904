import { existsSync } from 'node:fs';

/** Debian's builds of Chromium. The one without windows does the same in two thirds of the time. */
export const CHROMIUM_PACKAGES = ['chromium-headless-shell', 'chromium'];

/** How Debian's Chromium is started headless: no background connections, which a closed network would refuse. */
export const chromiumOptions = {
	get executablePath() {
		const installed = CHROMIUM_PACKAGES.map((name) => `/usr/bin/${name}`).filter((file) => existsSync(file));
		return process.env.CHROMIUM_PATH ?? installed[0] ?? '/usr/bin/chromium';
	},
	args: [
		'--no-sandbox',
		'--disable-gpu',
		'--disable-quic',
		'--no-first-run',
		'--disable-background-networking',
		'--disable-component-update',
		'--disable-sync'
	]
};
