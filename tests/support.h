/* What the suites share: a runner, waveforms spelt out by hand, and the tool as a process. */
#ifndef DROMIKOS_TESTS_SUPPORT_H
#define DROMIKOS_TESTS_SUPPORT_H

#include "dromikos/dromikos.h"
#include "dromikos/encode.h"

#include <check.h>
#include <glib.h>
#include <jansson.h>

/* A test. It registers itself with the suite of its program, so that none can be left out of a list. */
#define TEST(name)                                                                                           \
    static const TTest *name;                                                                                \
    __attribute__((constructor)) static void name##_joins(void)                                              \
    {                                                                                                        \
        join_suite(&name);                                                                                   \
    }                                                                                                        \
    START_TEST(name)
void join_suite(const TTest **test);

/* Runs the tests of the program, in their order. */
#define SUITE(name)                                                                                          \
    int main(void)                                                                                           \
    {                                                                                                        \
        return run_suite(name);                                                                              \
    }
int run_suite(const char *name);

/* A receiver with its memory, for nec. It takes intervals and keeps the frames that come out. */
typedef struct ear {
    drom_receive_plan plan;
    drom_receiver receiver;
    drom_decoder decoders[8];
    drom_fingerprint fingerprint;
    drom_filter fine;
    drom_us now;
    drom_us heard_at[64]; /* time of the frame */
    drom_frame frames[64];
    unsigned count; /* number of all frames; only the first 64 are kept */
} ear;
void ear_open(ear *listening, drom_us start);
/* Keeps the line in a mark, or in a space, for a time. */
void ear_mark(ear *listening, drom_us us);
void ear_space(ear *listening, drom_us us);
/* An edge, `us` after the last. */
void ear_edge(ear *listening, drom_us us, bool is_mark, bool after_loss);
/* Lets silence pass until no frame can follow. */
void ear_silence(ear *listening);
/* Receives a nec frame, written as 32 bits in the order in which they are sent. Blanks are ignored. */
void ear_nec(ear *listening, const char *bits, double scale, int stretch_us);
void ear_nec_repeat(ear *listening, double scale, int stretch_us);

/* nec, address 4, command 70, bit by bit: 4, ~4, 70, ~70, each with its least significant bit first. */
#define NEC_4_70 "00100000 11011111 01100010 10011101"
/* nec, address 4, command 71. */
#define NEC_4_71 "00100000 11011111 11100010 00011101"

/* The output of a process. */
typedef struct said {
    char *out;
    char *err;
    int code; /* -1: a signal ended it */
} said;
/* Runs a command line of the shell; $DROMIKOS, $LANTERN and $EXAMPLES are set. */
said run_shell(const char *format, ...) G_GNUC_PRINTF(1, 2);
void said_free(said *unwanted);
G_DEFINE_AUTO_CLEANUP_CLEAR_FUNC(said, said_free)

/* A command that must fail with this code and this message on standard error; `before` precedes each. */
typedef struct refusal {
    const char *command;
    int code;
    const char *reported;
} refusal;
void check_refusals(const char *before, const refusal *rows, size_t count);
#define ASSERT_REFUSED(before, rows) check_refusals(before, rows, G_N_ELEMENTS(rows))
#define ck_assert_contains(text, part)                                                                       \
    ck_assert_msg(strstr((text), (part)) != NULL, "'%s' isn't in:\n%s", (part), (text))

/* Ends the test, with a message that says what to do, if there are no pseudo-terminals. */
void need_terminal(void);

/* Writes a text to a file in a folder of this process, and creates folders if needed. Returns its path, to be
 * freed. */
char *write_file(const char *name, const char *text);
char *write_bytes(const char *name, const void *bytes, gsize length);

/* Returns the objects of JSON Lines of this `kind`; NULL: all. And a field of an object. */
json_t *json_lines(const char *text, const char *kind);
G_DEFINE_AUTOPTR_CLEANUP_FUNC(json_t, json_decref)
const json_t *json_field(const json_t *rows, size_t row, const char *field);
#define JSON_INT(rows, row, field) json_integer_value(json_field(rows, row, field))
#define JSON_TEXT(rows, row, field) json_string_value(json_field(rows, row, field))

#endif
