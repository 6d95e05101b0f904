// How programs with several threads are started, so that they take little memory.

// glibc keeps a store of its own for each thread, and gives little of it back; with fewer than this, threads wait for each other
export const leanMemory = { MALLOC_ARENA_MAX: '4' };

// the terminal's main thread hands on what others have made: little of it lives long
export const leanArguments = ['--max-semi-space-size=8'];
