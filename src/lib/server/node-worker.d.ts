/* The file of a worker thread, bundled for it (tools/node-worker.js). */
declare module '*?nodeworker' {
	const file: string;
	export default file;
}
