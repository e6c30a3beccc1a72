/* Lets time go by faster for the emulator than for us, so that a night takes an hour: it is loaded before the C library and answers for its clocks. For the
 * guest it is a slower computer: its clocks, timers and waits are right among each other, and it gets less done in each of its seconds.
 *
 * REVISUM_HASTE is how many of its seconds pass in one of ours. Waits are shortened by the same.
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <poll.h>
#include <pthread.h>
#include <signal.h>
#include <stdlib.h>
#include <sys/time.h>
#include <time.h>

#define SECOND 1000000000LL
#define CLOCKS 16

static long long haste = 1;
/* What each clock showed when the emulator was started. */
static long long begin[CLOCKS];
static int (*real_gettime)(clockid_t, struct timespec *);

static long long nanoseconds(const struct timespec *time) { return time->tv_sec * SECOND + time->tv_nsec; }

static struct timespec in_parts(long long time) {
    struct timespec parts = {.tv_sec = time / SECOND, .tv_nsec = time % SECOND};
    return parts;
}

/* Other libraries ask for the time before this one's turn to be set up. */
__attribute__((constructor)) static void look_at_the_clocks(void) {
    if (real_gettime) return;
    real_gettime = dlsym(RTLD_NEXT, "clock_gettime");
    const char *text = getenv("REVISUM_HASTE");
    if (text && atoll(text) > 0) haste = atoll(text);
    for (clockid_t clock = 0; clock < CLOCKS; clock++) {
        struct timespec now;
        if (real_gettime(clock, &now) == 0) begin[clock] = nanoseconds(&now);
    }
}

/* Clocks of processes and threads count work, not time. */
static int goes_faster(clockid_t clock) {
    return clock >= 0 && clock < CLOCKS && clock != CLOCK_PROCESS_CPUTIME_ID && clock != CLOCK_THREAD_CPUTIME_ID;
}

int clock_gettime(clockid_t clock, struct timespec *time) {
    look_at_the_clocks();
    int failed = real_gettime(clock, time);
    if (failed == 0 && goes_faster(clock))
        *time = in_parts(begin[clock] + (nanoseconds(time) - begin[clock]) * haste);
    return failed;
}

int gettimeofday(struct timeval *restrict time, void *restrict zone) {
    (void)zone;
    struct timespec now;
    int failed = clock_gettime(CLOCK_REALTIME, &now);
    time->tv_sec = now.tv_sec;
    time->tv_usec = now.tv_nsec / 1000;
    return failed;
}

time_t time(time_t *kept) {
    struct timespec now = {0};
    clock_gettime(CLOCK_REALTIME, &now);
    if (kept) *kept = now.tv_sec;
    return now.tv_sec;
}

int ppoll(struct pollfd *files, nfds_t count, const struct timespec *timeout, const sigset_t *signals) {
    int (*real)(struct pollfd *, nfds_t, const struct timespec *, const sigset_t *) = dlsym(RTLD_NEXT, "ppoll");
    struct timespec shorter;
    if (timeout) shorter = in_parts(nanoseconds(timeout) / haste);
    return real(files, count, timeout ? &shorter : NULL, signals);
}

int poll(struct pollfd *files, nfds_t count, int timeout) {
    int (*real)(struct pollfd *, nfds_t, int) = dlsym(RTLD_NEXT, "poll");
    return real(files, count, timeout > 0 ? (int)((timeout + haste - 1) / haste) : timeout);
}

/* The moment of ours at which that clock shows this to the emulator. */
static struct timespec moment_of(clockid_t clock, const struct timespec *shown) {
    return in_parts(begin[clock] + (nanoseconds(shown) - begin[clock]) / haste);
}

int pthread_cond_timedwait(pthread_cond_t *restrict condition, pthread_mutex_t *restrict mutex, const struct timespec *restrict until) {
    int (*real)(pthread_cond_t *, pthread_mutex_t *, const struct timespec *) = dlsym(RTLD_NEXT, "pthread_cond_timedwait");
    /* The clock of a condition cannot be asked for; moments of the clock since power-on are long before those of the calendar. */
    clockid_t clock = until->tv_sec < begin[CLOCK_REALTIME] / SECOND / 2 ? CLOCK_MONOTONIC : CLOCK_REALTIME;
    struct timespec moment = moment_of(clock, until);
    return real(condition, mutex, &moment);
}

int pthread_cond_clockwait(pthread_cond_t *condition, pthread_mutex_t *mutex, clockid_t clock, const struct timespec *until) {
    int (*real)(pthread_cond_t *, pthread_mutex_t *, clockid_t, const struct timespec *) = dlsym(RTLD_NEXT, "pthread_cond_clockwait");
    struct timespec moment = moment_of(clock, until);
    return real(condition, mutex, clock, &moment);
}
