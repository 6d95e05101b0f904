// Builds the server with its worker threads, the command line, the maker of the demo's mail, and its stand-ins.
import { build } from 'vite';
import { bundle } from './bundle.js';
import { root } from './setup.js';

await build({ root });
await bundle('src/cli/kovrel.ts', 'kovrel');
await bundle('demo/make-mail.ts', 'make-demo-mail');
await bundle('demo/standins.ts', 'standins');
await bundle('demo/set-up-office.ts', 'set-up-office');
