// How programs with several threads are started, so that they take little memory, and reach it fast.

// glibc keeps a store of its own for each thread, and gives little of it back; with fewer than this, threads wait for each other
// the index of words is built in some megabytes that are jumped about in: fewer and larger pages, where the system has them
export const leanMemory = { MALLOC_ARENA_MAX: '4', GLIBC_TUNABLES: 'glibc.malloc.hugetlb=1' };

// the terminal's main thread hands on what others have made: little of it lives long
export const leanArguments = ['--max-semi-space-size=8'];
