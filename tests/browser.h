/* A browser without a window, driven by WebDriver (a W3C standard): Chromium's. */
#ifndef DROMIKOS_TESTS_BROWSER_H
#define DROMIKOS_TESTS_BROWSER_H

#include <glib.h>
#include <jansson.h>

typedef struct browser {
    GPid window;
    GPid driver;
    char *url; /* of the session */
} browser;

/* Starts one with a window of this size; fails the test where there is none. */
browser browser_open(int width, int height);
void browser_close(browser *at);

void browser_load(const browser *at, const char *path);

/* What a script of the page returns; to be let go of with json_decref(). */
json_t *browser_ask(const browser *at, const char *script);

/* A text, a number. The text is to be freed. */
char *browser_text(const browser *at, const char *script);
double browser_number(const browser *at, const char *script);

/* Types a key on what has the focus; the names of the arrows are WebDriver's letters. */
void browser_type(const browser *at, const char *key);
#define BROWSER_RIGHT "\\ue014"

/* Presses the mouse at a place, moves it, and lets it go. */
void browser_drag(const browser *at, int x, int y, int to_x, int to_y);

/* As if the reader had chosen so: prefers-color-scheme is dark or light, the medium screen or print. */
void browser_prefer(const browser *at, const char *scheme, const char *medium);

/* As if the window were that of a telephone, so large in CSS pixels. */
void browser_shrink(const browser *at, int width, int height);

#endif
