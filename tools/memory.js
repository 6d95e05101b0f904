// How programs with several threads are started: glibc keeps a store of its own for each thread, and gives little of it back.
export const leanMemory = { MALLOC_ARENA_MAX: '4' };
