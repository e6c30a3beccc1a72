/* Put before the C library (ld.so(8), LD_PRELOAD): lets one call fail, or every call from one on, or makes a write short. FAULT_OF says of which calls:
 * "memory" that is allocated, "threads" that are started, else those of the file system below FAULT_PREFIX. FAULT_AT is the call, from 1; FAULT_KIND
 * is "once", "on" or "short"; FAULT_COUNT is a file that is told how many calls there were. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <pthread.h>
#include <stdarg.h>
#include <stdatomic.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/types.h>
#include <unistd.h>

enum { FILES = 0, MEMORY = 1, THREADS = 2 };
enum { MOST_FILES = 4096, PASS = 0, FAIL = 1, SHORT = 2 };

static atomic_long calls;
static atomic_char watched[MOST_FILES];
static long fault_at = -1;
static int kind, of;
static const char *prefix;

__attribute__((constructor)) static void begin(void) {
    const char *at = getenv("FAULT_AT"), *how = getenv("FAULT_KIND");
    const char *calls_of = getenv("FAULT_OF");
    prefix = getenv("FAULT_PREFIX");
    of = calls_of && !strcmp(calls_of, "memory") ? MEMORY : calls_of && !strcmp(calls_of, "threads") ? THREADS : FILES;
    fault_at = at ? atol(at) : -1;
    kind = how && !strcmp(how, "on") ? 1 : how && !strcmp(how, "short") ? 2 : 0;
}

__attribute__((destructor)) static void end(void) {
    const char *count = getenv("FAULT_COUNT");
    FILE *file = count ? fopen(count, "w") : NULL;
    if (file) {
        fprintf(file, "%ld", atomic_load(&calls));
        fclose(file);
    }
}

static int below(const char *path) { return of == FILES && prefix && path && !strncmp(path, prefix, strlen(prefix)); }
static int is_watched(int fd) { return of == FILES && fd >= 0 && fd < MOST_FILES && atomic_load(&watched[fd]); }

/* What becomes of this call. */
static int fate(int writes) {
    long now = atomic_fetch_add(&calls, 1) + 1;
    if (fault_at < 1 || (kind == 1 ? now < fault_at : now != fault_at)) return PASS;
    if (kind == 2 && writes) return SHORT;
    errno = now % 2 ? EIO : ENOSPC;
    return FAIL;
}

#define REAL(name, type, ...) \
    static type (*real)(__VA_ARGS__); \
    if (!real) *(void **)&real = dlsym(RTLD_NEXT, name);

static int opened(int fd, const char *path) {
    if (fd >= 0 && fd < MOST_FILES) atomic_store(&watched[fd], below(path));
    return fd;
}

static mode_t mode_of(int flags, va_list list) { return flags & (O_CREAT | O_TMPFILE) ? va_arg(list, mode_t) : 0; }

#define OPEN(name) \
    int name(const char *path, int flags, ...) { \
        REAL(#name, int, const char *, int, ...) \
        va_list list; va_start(list, flags); mode_t mode = mode_of(flags, list); va_end(list); \
        if (below(path) && fate(0)) return -1; \
        return opened(real(path, flags, mode), path); \
    }
OPEN(open)
OPEN(open64)

#define OPENAT(name) \
    int name(int folder, const char *path, int flags, ...) { \
        REAL(#name, int, int, const char *, int, ...) \
        va_list list; va_start(list, flags); mode_t mode = mode_of(flags, list); va_end(list); \
        if (below(path) && fate(0)) return -1; \
        return opened(real(folder, path, flags, mode), path); \
    }
OPENAT(openat)
OPENAT(openat64)

int close(int fd) {
    REAL("close", int, int)
    if (fd >= 0 && fd < MOST_FILES) atomic_store(&watched[fd], 0);
    return real(fd);
}

#define MOVES(name, writes, type, bytes) \
    ssize_t name(int fd, type buffer, size_t length) { \
        REAL(#name, ssize_t, int, type, size_t) \
        int what = is_watched(fd) ? fate(writes) : PASS; \
        return what == FAIL ? -1 : real(fd, buffer, what == SHORT ? (length + 1) / 2 : length); \
    } \
    ssize_t p##name(int fd, type buffer, size_t length, off_t at) { \
        REAL("p" #name, ssize_t, int, type, size_t, off_t) \
        int what = is_watched(fd) ? fate(writes) : PASS; \
        return what == FAIL ? -1 : real(fd, buffer, what == SHORT ? (length + 1) / 2 : length, at); \
    } \
    ssize_t p##name##64(int fd, type buffer, size_t length, off64_t at) { \
        REAL("p" #name "64", ssize_t, int, type, size_t, off64_t) \
        int what = is_watched(fd) ? fate(writes) : PASS; \
        return what == FAIL ? -1 : real(fd, buffer, what == SHORT ? (length + 1) / 2 : length, at); \
    }
MOVES(write, 1, const void *, length)
MOVES(read, 0, void *, length)

#define ON_FD(name) \
    int name(int fd) { \
        REAL(#name, int, int) \
        return is_watched(fd) && fate(0) ? -1 : real(fd); \
    }
ON_FD(fsync)
ON_FD(fdatasync)

#define CUT(name, type) \
    int name(int fd, type length) { \
        REAL(#name, int, int, type) \
        return is_watched(fd) && fate(0) ? -1 : real(fd, length); \
    }
CUT(ftruncate, off_t)
CUT(ftruncate64, off64_t)

int rename(const char *from, const char *to) {
    REAL("rename", int, const char *, const char *)
    return below(to) && fate(0) ? -1 : real(from, to);
}

int unlink(const char *path) {
    REAL("unlink", int, const char *)
    return below(path) && fate(0) ? -1 : real(path);
}

int mkdir(const char *path, mode_t mode) {
    REAL("mkdir", int, const char *, mode_t)
    return below(path) && fate(0) ? -1 : real(path, mode);
}

/* The C library's own allocator, by its other names: asking for it while it is asked for would ask for memory. */
extern void *__libc_malloc(size_t), *__libc_calloc(size_t, size_t), *__libc_realloc(void *, size_t), *__libc_memalign(size_t, size_t);

static int refused(void) {
    if (of != MEMORY || !fate(0)) return 0;
    errno = ENOMEM;
    return 1;
}

void *malloc(size_t length) { return refused() ? NULL : __libc_malloc(length); }
void *calloc(size_t count, size_t length) { return refused() ? NULL : __libc_calloc(count, length); }
void *realloc(void *old, size_t length) { return refused() ? NULL : __libc_realloc(old, length); }

int posix_memalign(void **at, size_t alignment, size_t length) {
    void *given = refused() ? NULL : __libc_memalign(alignment, length);
    if (given) *at = given;
    return given ? 0 : ENOMEM;
}

int pthread_create(pthread_t *thread, const pthread_attr_t *attributes, void *(*begin)(void *), void *given) {
    REAL("pthread_create", int, pthread_t *, const pthread_attr_t *, void *(*)(void *), void *)
    return of == THREADS && fate(0) ? EAGAIN : real(thread, attributes, begin, given);
}
