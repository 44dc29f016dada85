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

/* Starts a browser with a window of this size; fails the test if there is none. */
browser browser_open(int width, int height);
void browser_close(browser *at);

void browser_load(const browser *at, const char *path);

/* Returns what a script of the page returns; to be freed with json_decref(). */
json_t *browser_ask(const browser *at, const char *script);

/* Returns an element's text, which is to be freed; or a number. */
char *browser_text(const browser *at, const char *script);
double browser_number(const browser *at, const char *script);

/* Types a key into the element with the focus; arrows have WebDriver's names. */
void browser_type(const browser *at, const char *key);
#define BROWSER_RIGHT "\\ue014"

/* Presses the mouse at a place, moves it, and releases it. */
void browser_drag(const browser *at, int x, int y, int to_x, int to_y);

/* Sets what the reader prefers: dark or light, and the medium: screen or print. */
void browser_prefer(const browser *at, const char *scheme, const char *medium);

/* Makes the window as large as a telephone's, in CSS pixels. */
void browser_shrink(const browser *at, int width, int height);

#endif
