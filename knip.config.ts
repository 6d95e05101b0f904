import type { KnipConfig } from 'knip';

/* What nobody uses is found here, and goes: `npm run lint` asks. */
const config: KnipConfig = {
	entry: [
		'src/cli/{kovrel,start,help-texts}.ts',
		'src/**/*.worker.ts',
		'demo/{make-mail,set-up-office,standins}.ts',
		'bench/{run,serve}.ts',
		'tests/**/*.e2e.ts',
		'tools/*.js'
	],
	project: ['src/**/*.{ts,svelte}', 'demo/**/*.ts', 'bench/**/*.ts', 'tests/**/*.ts', 'tools/**/*.js'],
	ignoreExportsUsedInFile: false,
	// a migration is a pair, whoever calls it
	ignore: ['src/lib/server/database/migrations/*.ts'],
	// styles, and a theme that styles bring in
	ignoreDependencies: ['@fontsource-variable/*', '@skeletonlabs/skeleton', 'tailwindcss', '@types/smtp-server'],
	rules: { unlisted: 'off', unresolved: 'off', binaries: 'off' }
};

export default config;
