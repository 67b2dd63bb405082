/**
 * How the C library keeps memory for our processes, given as environment when one starts. Without it each thread has an arena of its own, and
 * pieces of several megabytes, of which sound and pictures are made, are kept there when they are free: under `npm run bench -- abuse` the server
 * and its helpers took 826 MB above what they began with, and 420 with it. `./lectern` says the same to the server.
 * glibc manual, "Malloc Tunable Parameters".
 */
export const ALLOCATOR = {
  MALLOC_ARENA_MAX: '2',
  // larger pieces are asked for one by one, and go back to the system at once
  MALLOC_MMAP_THRESHOLD_: '1048576',
  MALLOC_TRIM_THRESHOLD_: '1048576',
}
