// Measures Kovrel against what stands beside each figure, and writes docs/benchmarks.md: npm run bench [-- --full]
import { existsSync } from 'node:fs';
import path from 'node:path';
import { ensureReady, root, run } from './setup.js';

await ensureReady();
const { bundle } = await import('./bundle.js');
await bundle('bench/run.ts', 'bench');
run(process.execPath, [path.join(root, 'build', 'programs', 'bench.mjs'), ...process.argv.slice(2)]);
if (existsSync(path.join(root, 'docs', 'benchmarks.md')))
	run('npx', ['--no-install', 'prettier', '--write', 'docs/benchmarks.md'], { quiet: true });
