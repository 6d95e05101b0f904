/** How Debian's Chromium is started headless: no background connections, which a closed network would refuse. */
export const chromiumOptions = {
	executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium',
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
