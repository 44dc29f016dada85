/* ncurses, and what it lacks: colours like those of the pictures, if the terminal has them; letters that the
 * terminal can't show; and restoring the terminal after a fault. */
#include "live/screen.h"

#include "plan/text/plain.h"

#include <curses.h>
#include <langinfo.h>
#include <locale.h>
#include <math.h>
#include <poll.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <term.h>
#include <termios.h>
#include <unistd.h>

enum { CUBE = 16, GREYS = 232, DIRECT = 1 << 24, FEW = 8, FIRST_PAIR = 16 };

static SCREEN *terminal;
static bool is_utf8;
static bool is_light_ground;
static volatile sig_atomic_t is_asked_to_leave;
static struct termios terminal_before;
static char undoing[256]; /* written after a fault */

/* A signal that ends the program is an event; a fault restores the terminal first, with calls that a handler
 * may make. */
static const int endings[] = {SIGINT, SIGTERM, SIGHUP, SIGQUIT};
static const int faults[] = {SIGSEGV, SIGBUS, SIGFPE, SIGILL, SIGABRT};

static void on_ending(int signal)
{
    (void)signal;
    is_asked_to_leave = 1;
}

static void on_fault(int number)
{
    (void)tcsetattr(STDIN_FILENO, TCSANOW, &terminal_before);
    const ssize_t written = write(STDOUT_FILENO, undoing, strlen(undoing));
    (void)written;
    (void)signal(number, SIG_DFL);
    (void)raise(number);
}

static void set_signals(void (*ending)(int), void (*fault)(int))
{
    struct sigaction action = {.sa_handler = ending};
    for (size_t i = 0; i < G_N_ELEMENTS(endings); i++) {
        (void)sigaction(endings[i], &action, NULL);
    }
    action.sa_handler = fault;
    for (size_t i = 0; i < G_N_ELEMENTS(faults); i++) {
        (void)sigaction(faults[i], &action, NULL);
    }
}

static void add_undoing(const char *capability)
{
    const char *const text = tigetstr(capability);
    if (text != NULL) {
        (void)g_strlcat(undoing, text, sizeof undoing);
    }
}

static void note_undoing(void)
{
    static const char *const capabilities[] = {"sgr0", "op", "rmkx", "cnorm", "rmcup"};
    (void)g_strlcpy(undoing, "\x1b[?1000l\x1b[?1006l", sizeof undoing); /* the mouse is released as well */
    for (size_t i = 0; i < G_N_ELEMENTS(capabilities); i++) {
        add_undoing(capabilities[i]);
    }
}

/* Returns the description of the same terminal with 16 million colours, if it claims to have them; NULL:
 * none. To be freed. */
static char *direct_name(const char *name)
{
    const char *const says = g_getenv("COLORTERM");
    int status = 0;
    if (says == NULL || (strcmp(says, "truecolor") != 0 && strcmp(says, "24bit") != 0)) {
        return NULL;
    }
    g_autofree char *stem = g_strndup(name, strcspn(name, "-"));
    g_autofree char *direct = g_strconcat(stem, "-direct", NULL);
    if (setupterm(direct, STDOUT_FILENO, &status) != 0) {
        return NULL;
    }
    (void)del_curterm(cur_term);
    return g_steal_pointer(&direct);
}

/* Returns NULL if it can be drawn on; else the reason. To be freed. */
static char *why_not(const char *name)
{
    int status = 0;
    if (isatty(STDIN_FILENO) == 0 || isatty(STDOUT_FILENO) == 0) {
        return g_strdup("this is no terminal; 'dromikos rehearse' needs none");
    }
    if (name == NULL || name[0] == '\0' || setupterm(name, STDOUT_FILENO, &status) != 0) {
        return g_strdup_printf("nothing is known of the terminal TERM=%s; 'dromikos rehearse' needs none",
                               name != NULL ? name : "");
    }
    const bool can_place = tigetstr("cup") != NULL;
    (void)del_curterm(cur_term);
    return can_place ? NULL
                     : g_strdup_printf("a terminal TERM=%s can't be drawn on; 'dromikos rehearse' prints "
                                       "line by line",
                                       name);
}

static bool has_colours(void)
{
    return has_colors() && COLORS >= FEW;
}

/* Returns the nearest of 6 levels of the cube of 256 colours. */
static int level_of_six(int value)
{
    return value < 48 ? 0 : value < 115 ? 1 : (value - 35) / 40;
}

static int distance(int r, int g, int b, int red, int green, int blue)
{
    return (r - red) * (r - red) + (g - green) * (g - green) + (b - blue) * (b - blue);
}

static int nearest_of_256(int r, int g, int b)
{
    const int at[] = {level_of_six(r), level_of_six(g), level_of_six(b)};
    const int levels[] = {0, 95, 135, 175, 215, 255};
    const int grey = CLAMP(((r + g + b) / 3 - 3) / 10, 0, 23);
    const int grey_value = 8 + 10 * grey;
    return distance(r, g, b, levels[at[0]], levels[at[1]], levels[at[2]]) <=
                   distance(r, g, b, grey_value, grey_value, grey_value)
               ? CUBE + 36 * at[0] + 6 * at[1] + at[2]
               : GREYS + grey;
}

/* Bit 0 red, 1 green, 2 blue, as the 8 colours are numbered. A dark colour is black only if all of it is
 * dark. */
static int nearest_of_8(int r, int g, int b)
{
    const int max = MAX(r, MAX(g, b));
    const int half = max / 2;
    return max < 24 ? 0 : (r > half ? 1 : 0) | (g > half ? 2 : 0) | (b > half ? 4 : 0);
}

static int colour_number(uint32_t rgb)
{
    const int r = (int)(rgb >> 16 & 0xff);
    const int g = (int)(rgb >> 8 & 0xff);
    const int b = (int)(rgb & 0xff);
    if (COLORS >= DIRECT) {
        return (int)(rgb < FEW && rgb > 0 ? FEW : rgb); /* the lowest numbers are the 8 colours */
    }
    return COLORS >= 256 ? nearest_of_256(r, g, b) : nearest_of_8(r, g, b);
}

/* With 8 colours the terminal's background is kept. */
static int ink_number(picture_ink ink)
{
    static const int few[INKS] = {-1, -1, -1, COLOR_CYAN, COLOR_YELLOW};
    return COLORS >= 256 ? colour_number(picture_rgb(ink, !is_light_ground)) : few[ink];
}

static void set_style(screen_style style)
{
    const attr_t attributes =
        (style.is_bold ? A_BOLD : A_NORMAL) | (style.is_inverted ? A_REVERSE : A_NORMAL);
    int pair = 0;
    if (has_colours()) {
        pair = alloc_pair(ink_number(style.ink), ink_number(INK_GROUND));
    }
    (void)attr_set(attributes, 0, &pair);
}

bool screen_open(bool is_light, char **why)
{
    const char *const name = g_getenv("TERM");
    *why = why_not(name);
    if (*why != NULL) {
        return false;
    }
    g_autofree char *direct = direct_name(name);
    is_utf8 = strcmp(nl_langinfo(CODESET), "UTF-8") == 0;
    is_light_ground = is_light;
    is_asked_to_leave = 0;
    (void)tcgetattr(STDIN_FILENO, &terminal_before);
    set_signals(on_ending, SIG_DFL);
    terminal = newterm(direct != NULL ? direct : name, stdout, stdin);
    if (terminal == NULL) {
        *why = g_strdup_printf("the terminal TERM=%s can't be opened", name);
        return false;
    }
    note_undoing();
    set_signals(on_ending, on_fault);
    (void)cbreak();
    (void)noecho();
    (void)nonl();
    (void)keypad(stdscr, TRUE);
    (void)nodelay(stdscr, TRUE);
    (void)set_escdelay(25);
    (void)curs_set(0);
    (void)mouseinterval(0);
    (void)mousemask(BUTTON1_PRESSED | BUTTON1_RELEASED, NULL);
    if (g_getenv("NO_COLOR") == NULL) {
        (void)start_color();
        (void)use_default_colors();
    }
    return true;
}

void screen_close(void)
{
    if (terminal != NULL) {
        (void)endwin();
        delscreen(terminal);
        terminal = NULL;
        set_signals(SIG_DFL, SIG_DFL);
    }
}

int screen_rows(void)
{
    return LINES;
}

int screen_columns(void)
{
    return COLS;
}

void screen_wait(int ms)
{
    struct pollfd hand = {.fd = STDIN_FILENO, .events = POLLIN};
    if (poll(&hand, 1, ms) > 0 && (hand.revents & (POLLHUP | POLLERR | POLLNVAL)) != 0) {
        is_asked_to_leave = 1;
    }
}

/* A mouse event; one key stands for several simultaneous ones, the newest first. */
static MEVENT clicks[8];
static unsigned click_count;

static void take_clicks(void)
{
    click_count = 0;
    while (click_count < G_N_ELEMENTS(clicks) && getmouse(&clicks[click_count]) == OK) {
        click_count++;
    }
}

static screen_event mouse_event(void)
{
    const MEVENT *const click = &clicks[--click_count];
    return (screen_event){.doing = (click->bstate & BUTTON1_PRESSED) != 0    ? SCREEN_MOUSE_DOWN
                                   : (click->bstate & BUTTON1_RELEASED) != 0 ? SCREEN_MOUSE_UP
                                                                             : SCREEN_OTHER,
                          .row = click->y,
                          .column = click->x};
}

/* A single escape ends; an unknown sequence is skipped. */
static screen_event escape_event(void)
{
    wint_t code = 0;
    bool is_alone = true;
    while (get_wch(&code) == OK) {
        const bool is_end = code == '~' || g_ascii_isalpha((char)code);
        if (is_end && !(is_alone && code == 'O')) { /* a letter ends it, except the one that begins it */
            return (screen_event){.doing = SCREEN_OTHER};
        }
        is_alone = false;
    }
    return (screen_event){.doing = is_alone ? SCREEN_LEAVE : SCREEN_OTHER};
}

screen_event screen_next(void)
{
    static const struct {
        wint_t code;
        screen_doing doing;
    } keys[] = {
        {KEY_LEFT, SCREEN_LEFT}, {KEY_RIGHT, SCREEN_RIGHT},   {KEY_UP, SCREEN_UP},
        {KEY_DOWN, SCREEN_DOWN}, {KEY_PPAGE, SCREEN_PAGE_UP}, {KEY_NPAGE, SCREEN_PAGE_DOWN},
        {KEY_HOME, SCREEN_HOME}, {KEY_END, SCREEN_END},       {KEY_F(10), SCREEN_LEAVE},
    };
    enum { ESCAPE = 27 };
    wint_t code = 0;
    if (is_asked_to_leave != 0) {
        return (screen_event){.doing = SCREEN_LEAVE};
    }
    if (click_count > 0) {
        return mouse_event();
    }
    const int kind = get_wch(&code);
    if (kind == ERR) {
        return (screen_event){.doing = SCREEN_NOTHING};
    }
    if (kind == OK) {
        return code == ESCAPE ? escape_event() : (screen_event){.doing = SCREEN_TYPED, .letter = code};
    }
    if (code == KEY_MOUSE) {
        take_clicks();
        return click_count > 0 ? mouse_event() : (screen_event){.doing = SCREEN_OTHER};
    }
    for (size_t i = 0; i < G_N_ELEMENTS(keys); i++) {
        if (keys[i].code == code) {
            return (screen_event){.doing = keys[i].doing};
        }
    }
    return (screen_event){.doing = SCREEN_OTHER};
}

void screen_begin(void)
{
    int pair = 0;
    if (has_colours() && COLORS >= 256) {
        cchar_t ground;
        pair = alloc_pair(ink_number(INK_PLAIN), ink_number(INK_GROUND));
        if (setcchar(&ground, L" ", A_NORMAL, 0, &pair) == OK) {
            (void)bkgrndset(&ground);
        }
    }
    (void)erase();
}

void screen_show(void)
{
    (void)refresh();
}

/* Returns the width of a letter: combining letters have none. */
static int cells_of(gunichar letter)
{
    return g_unichar_iszerowidth(letter) ? 0 : g_unichar_iswide(letter) ? 2 : 1;
}

int screen_width_of(const char *text)
{
    int cells = 0;
    for (const char *at = text; at[0] != '\0'; at = g_utf8_next_char(at)) {
        cells += cells_of(g_utf8_get_char(at));
    }
    return cells;
}

/* Returns a text as this terminal can show it. To be freed. */
static char *shown_text(const char *text)
{
    g_autofree char *plain = plain_text(text);
    return is_utf8 ? g_steal_pointer(&plain) : g_str_to_ascii(plain, "C");
}

void screen_put(int row, int column, int width, screen_style style, const char *text)
{
    const int room = MIN(width, COLS - column);
    if (row < 0 || row >= LINES || column < 0 || room <= 0) {
        return;
    }
    g_autofree char *shown = shown_text(text);
    const bool is_cut = screen_width_of(shown) > room;
    const char *const mark = is_utf8 ? "…" : "~";
    int cells = 0;
    char *end = shown;
    while (end[0] != '\0') {
        const int more = cells_of(g_utf8_get_char(end));
        if (cells + more > room - (is_cut ? 1 : 0)) {
            break;
        }
        cells += more;
        end = g_utf8_next_char(end);
    }
    g_autofree char *cut = g_strdup_printf("%.*s%s", (int)(end - shown), shown, is_cut ? mark : "");
    set_style(style);
    (void)mvaddstr(row, column, cut);
}

static void put_cell(int row, int column, screen_style style, const char *cell)
{
    screen_put(row, column, 1, style, cell);
}

static void put_base(int row, int column, int width)
{
    for (int i = 0; i < width; i++) {
        put_cell(row, column + i, (screen_style){.ink = INK_FAINT}, is_utf8 ? "─" : "-");
    }
}

void screen_bar(int row, int column, int width, double from, double until, picture_ink ink)
{
    put_base(row, column, width);
    const int first = (int)lround(CLAMP(from, 0, 1) * width);
    int last = (int)lround(CLAMP(until, 0, 1) * width);
    last = last == first && until > from ? first + 1 : last; /* a small value is not nothing */
    for (int i = first; i < MIN(last, width); i++) {
        put_cell(row, column + i, (screen_style){.ink = ink}, is_utf8 ? "▆" : "#");
    }
}

void screen_place(int row, int column, int width, double at, picture_ink ink)
{
    put_base(row, column, width);
    put_cell(row, column + (int)lround(CLAMP(at, 0, 1) * (width - 1)),
             (screen_style){.ink = ink, .is_bold = true}, is_utf8 ? "◆" : "*");
}

/* Returns the mean of some lights. */
static uint32_t mean_of(const uint32_t *rgb, unsigned from, unsigned until)
{
    unsigned sums[3] = {0};
    for (unsigned i = from; i < until; i++) {
        sums[0] += rgb[i] >> 16 & 0xff;
        sums[1] += rgb[i] >> 8 & 0xff;
        sums[2] += rgb[i] & 0xff;
    }
    const unsigned count = MAX(until - from, 1);
    return sums[0] / count << 16 | sums[1] / count << 8 | sums[2] / count;
}

/* Two lights in a cell; without colours a letter each. */
static void put_lights(int row, int column, uint32_t left, uint32_t right)
{
    static const char letters[] = ".rgybmcw";
    if (!has_colours()) {
        const uint32_t seen = mean_of((const uint32_t[]){left, right}, 0, 2);
        const int nearest =
            nearest_of_8((int)(seen >> 16 & 0xff), (int)(seen >> 8 & 0xff), (int)(seen & 0xff));
        const char letter[] = {letters[nearest], '\0'};
        put_cell(row, column, (screen_style){.ink = INK_PLAIN}, letter);
        return;
    }
    int pair = alloc_pair(colour_number(left), colour_number(is_utf8 ? right : left));
    (void)attr_set(A_NORMAL, 0, &pair);
    (void)mvaddstr(row, column, is_utf8 ? "▌" : " ");
}

int screen_pixels(int row, int column, int width, const uint32_t *rgb, unsigned count)
{
    if (width <= 0 || count == 0 || row >= LINES || column + width > COLS) {
        return 0;
    }
    const bool is_paired = has_colours() && is_utf8;
    const unsigned room = (unsigned)width * (is_paired ? 2 : 1);
    const unsigned each = (count + room - 1) / room; /* lights in one */
    const unsigned shown = (count + each - 1) / each;
    for (unsigned i = 0; i < shown; i += is_paired ? 2 : 1) {
        const uint32_t left = mean_of(rgb, i * each, MIN((i + 1) * each, count));
        const bool has_right = is_paired && i + 1 < shown;
        const uint32_t right = has_right ? mean_of(rgb, (i + 1) * each, MIN((i + 2) * each, count)) : left;
        put_lights(row, column + (int)(is_paired ? i / 2 : i), left, right);
    }
    return (int)(is_paired ? (shown + 1) / 2 : shown);
}
