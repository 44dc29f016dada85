/* Files are written completely or not at all, through symbolic links, with their permissions, and never over
 * an input. */
#include "cli/io/files.h"

#include "cli/io/io.h"

#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <string.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

/* Returns the target of a path, which may not exist yet. To be freed. */
static char *end_of(const char *path)
{
    enum { MAX_LINKS = 40 };
    char *at = g_strdup(path);
    for (unsigned i = 0; i < MAX_LINKS; i++) {
        g_autofree char *link = g_file_read_link(at, NULL);
        if (link == NULL) {
            break;
        }
        g_autofree char *folder = g_path_get_dirname(at);
        g_free(at);
        at = g_path_is_absolute(link) ? g_steal_pointer(&link) : g_build_filename(folder, link, NULL);
    }
    return at;
}

static bool put_all(int file, const char *bytes, gsize length)
{
    while (length > 0) {
        const ssize_t put = write(file, bytes, length);
        if (put < 0 && errno != EINTR) {
            return false;
        }
        bytes += put > 0 ? put : 0;
        length -= put > 0 ? (gsize)put : 0;
    }
    return true;
}

/* Writes to what is no file: a terminal, a pipe. */
static bool put_through(const char *path, const char *bytes, gsize length)
{
    const int file = open(path, O_WRONLY | O_CLOEXEC);
    bool is_put = file >= 0 && put_all(file, bytes, length);
    if (file >= 0) {
        is_put &= close(file) == 0;
    }
    return is_put;
}

static mode_t usual_mode(void)
{
    const mode_t mask = umask(0);
    (void)umask(mask);
    return 0666 & ~mask;
}

/* Writes to a new file beside it, which then replaces it. `before`: NULL if there is none. */
static bool replace(const char *path, const struct stat *before, const char *bytes, gsize length)
{
    g_autofree char *beside = g_strconcat(path, ".XXXXXX", NULL);
    if (before != NULL && access(path, W_OK) != 0) {
        return false;
    }
    const int file = g_mkstemp_full(beside, O_RDWR | O_CLOEXEC, 0600);
    if (file < 0) {
        return false;
    }
    if (before != NULL) { /* not everybody can keep the owner */
        (void)!fchown(file, before->st_uid, before->st_gid);
    }
    bool is_put = put_all(file, bytes, length) &&
                  fchmod(file, before != NULL ? before->st_mode & 07777 : usual_mode()) == 0 &&
                  fsync(file) == 0;
    int failure = errno;
    is_put = close(file) == 0 && is_put && rename(beside, path) == 0;
    if (!is_put) {
        failure = failure != 0 ? failure : errno;
        (void)unlink(beside);
        errno = failure;
    }
    return is_put;
}

bool write_bytes(const char *verb, const char *path, const char *bytes, gsize length)
{
    struct stat about;
    g_autofree char *end = end_of(path);
    errno = 0;
    const bool is_there = stat(end, &about) == 0;
    const bool is_file = !is_there || S_ISREG(about.st_mode);
    errno = 0;
    if (is_file ? replace(end, is_there ? &about : NULL, bytes, length) : put_through(end, bytes, length)) {
        return true;
    }
    complain(verb, "%s: can't be written: %s", path, g_strerror(errno));
    return false;
}

bool can_be_written(const char *verb, const char *path)
{
    g_autofree char *end = end_of(path);
    g_autofree char *folder = g_path_get_dirname(end);
    const bool is_there = g_file_test(end, G_FILE_TEST_EXISTS);
    const bool is_file = !is_there || g_file_test(end, G_FILE_TEST_IS_REGULAR);
    errno = g_file_test(end, G_FILE_TEST_IS_DIR) ? EISDIR : 0;
    if (errno == 0 && (!is_there || access(end, W_OK) == 0) && (!is_file || access(folder, W_OK) == 0)) {
        return true;
    }
    complain(verb, "%s: can't be written: %s", path, g_strerror(errno));
    return false;
}

bool write_text(const char *verb, const char *path, const char *text)
{
    return write_bytes(verb, path, text, strlen(text));
}

bool write_into_folder(const char *verb, const char *path, const char *text)
{
    g_autofree char *folder = g_path_get_dirname(path);
    if (g_mkdir_with_parents(folder, 0777) != 0) {
        complain(verb, "the folder %s can't be made: %s", folder, g_strerror(errno));
        return false;
    }
    return write_text(verb, path, text);
}

/* True for the same file under any path; "-" is standard input. */
static bool are_one(const char *path, const char *input)
{
    struct stat a;
    struct stat b;
    return stat(path, &a) == 0 && S_ISREG(a.st_mode) &&
           (strcmp(input, "-") == 0 ? fstat(STDIN_FILENO, &b) : stat(input, &b)) == 0 &&
           a.st_dev == b.st_dev && a.st_ino == b.st_ino;
}

bool is_an_input(const char *verb, const char *path, char *const *inputs)
{
    for (; path != NULL && *inputs != NULL; inputs++) {
        if (are_one(path, *inputs)) {
            complain(verb, "%s is read, and can't be written over; give another file for what is written",
                     path);
            return true;
        }
    }
    return false;
}

bool is_read_by_plan(const char *verb, const char *path, const plan *loaded)
{
    g_autoptr(GPtrArray) paths = plan_paths(loaded);
    g_ptr_array_add(paths, NULL);
    return is_an_input(verb, path, (char *const *)paths->pdata);
}

int lock_beside(const char *path)
{
    g_autofree char *end = end_of(path);
    g_autofree char *folder = g_path_get_dirname(end);
    const int lock = open(folder, O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (lock >= 0) {
        (void)flock(lock, LOCK_EX);
    }
    return lock;
}

void unlock(int lock)
{
    if (lock >= 0) {
        (void)close(lock);
    }
}
