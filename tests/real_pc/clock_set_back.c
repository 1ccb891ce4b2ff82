/* The clock of a PC in a container is the host's: for its programs, an hour is taken off it as soon
 * as a file is there. Preloaded into every program of the PC, its service manager's own included. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <sys/time.h>
#include <time.h>
#include <unistd.h>

#define SECONDS 3600

static time_t set_back(void) { return access("/run/clock-set-back", F_OK) == 0 ? SECONDS : 0; }

int clock_gettime(clockid_t clock, struct timespec *now) {
    static int (*real)(clockid_t, struct timespec *);
    if (!real) real = dlsym(RTLD_NEXT, "clock_gettime");
    int failed = real(clock, now);
    if (!failed && (clock == CLOCK_REALTIME || clock == CLOCK_REALTIME_COARSE))
        now->tv_sec -= set_back();
    return failed;
}

int gettimeofday(struct timeval *restrict now, void *restrict zone) {
    struct timespec precise;
    (void)zone;
    clock_gettime(CLOCK_REALTIME, &precise);
    now->tv_sec = precise.tv_sec;
    now->tv_usec = precise.tv_nsec / 1000;
    return 0;
}

time_t time(time_t *where) {
    struct timespec precise;
    clock_gettime(CLOCK_REALTIME, &precise);
    if (where) *where = precise.tv_sec;
    return precise.tv_sec;
}
