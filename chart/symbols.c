#include "chart/symbols.h"

#include "chart/scale.h"

#include <math.h>

enum { LEG_PX = 40 };

static const picture_type small = {12, false, TEXT_AROUND, INK_PLAIN};

static double across(const symbol_pen *pen, double x)
{
    return pen->x + pen->way * x;
}

static void line(const symbol_pen *pen, const double *points, unsigned count, picture_ink ink, double width)
{
    g_autoptr(GArray) moved = scale_points();
    for (unsigned i = 0; i < count; i++) {
        scale_add_point(moved, across(pen, points[2UL * i]), points[2UL * i + 1]);
    }
    picture_line(pen->canvas, (const double *)(const void *)moved->data, count, ink, width);
}

static void solid(const symbol_pen *pen, const double *points, unsigned count)
{
    g_autoptr(GArray) moved = scale_points();
    for (unsigned i = 0; i < count; i++) {
        scale_add_point(moved, across(pen, points[2UL * i]), points[2UL * i + 1]);
    }
    picture_shape(pen->canvas, (const double *)(const void *)moved->data, count, INK_PLAIN);
}

void symbol_wire(const symbol_pen *pen, double x, double y, double to_x, double to_y, picture_ink ink)
{
    line(pen, (const double[]){x, y, to_x, to_y}, 2, ink, 1.5);
}

void symbol_dot(const symbol_pen *pen, double x, double y, picture_ink ink)
{
    picture_box(pen->canvas, across(pen, x) - 2.5, y - 2.5, 5, 5, ink, FILL_SOLID);
}

static void legs(const symbol_pen *pen, double x, double y, double inner)
{
    symbol_wire(pen, x, y, x + (LEG_PX - inner) / 2, y, INK_PLAIN);
    symbol_wire(pen, x + (LEG_PX + inner) / 2, y, x + LEG_PX, y, INK_PLAIN);
}

void symbol_box(const symbol_pen *pen, double x, double y, double width, double height)
{
    const double left = MIN(across(pen, x), across(pen, x + width));
    picture_box(pen->canvas, left, y, width, height, INK_PLAIN, FILL_NONE);
}

void symbol_resistor(const symbol_pen *pen, double x, double y)
{
    legs(pen, x, y, 24);
    symbol_box(pen, x + 8, y - 4, 24, 8);
}

void symbol_resistor_down(const symbol_pen *pen, double x, double y)
{
    symbol_wire(pen, x, y, x, y + 6, INK_PLAIN);
    symbol_box(pen, x - 4, y + 6, 8, 20);
    symbol_wire(pen, x, y + 26, x, y + 32, INK_PLAIN);
}

void symbol_coil(const symbol_pen *pen, double x, double y)
{
    legs(pen, x, y, 28);
    symbol_box(pen, x + 6, y - 7, 28, 14);
    symbol_wire(pen, x + 12, y + 7, x + 22, y - 7, INK_PLAIN);
}

static void circle(const symbol_pen *pen, double x, double y, double radius)
{
    enum { STEPS = 24 };
    double points[2 * (STEPS + 1)];
    for (size_t i = 0; i <= STEPS; i++) {
        points[2 * i] = x + radius * cos(2 * G_PI * (double)i / STEPS);
        points[2 * i + 1] = y + radius * sin(2 * G_PI * (double)i / STEPS);
    }
    line(pen, points, STEPS + 1, INK_PLAIN, 1.2);
}

void symbol_motor(const symbol_pen *pen, double x, double y)
{
    legs(pen, x, y, 24);
    circle(pen, x + LEG_PX / 2.0, y, 12);
    picture_text(pen->canvas, across(pen, x + LEG_PX / 2.0), y + 4,
                 (picture_type){12, true, TEXT_AROUND, INK_PLAIN}, "M");
}

void symbol_lamp(const symbol_pen *pen, double x, double y)
{
    const double middle = x + LEG_PX / 2.0;
    legs(pen, x, y, 20);
    circle(pen, middle, y, 10);
    symbol_wire(pen, middle - 7, y - 7, middle + 7, y + 7, INK_PLAIN);
    symbol_wire(pen, middle - 7, y + 7, middle + 7, y - 7, INK_PLAIN);
}

void symbol_contact(const symbol_pen *pen, double x, double y)
{
    legs(pen, x, y, 20);
    symbol_wire(pen, x + 10, y, x + 29, y - 9, INK_PLAIN);
}

void symbol_capacitor_down(const symbol_pen *pen, double x, double y)
{
    symbol_wire(pen, x, y, x, y + 13, INK_PLAIN);
    line(pen, (const double[]){x - 8, y + 13, x + 8, y + 13}, 2, INK_PLAIN, 2);
    line(pen, (const double[]){x - 8, y + 18, x + 8, y + 18}, 2, INK_PLAIN, 2);
    symbol_wire(pen, x, y + 18, x, y + 32, INK_PLAIN);
    line(pen, (const double[]){x - 12, y + 8, x - 6, y + 8}, 2, INK_PLAIN, 1);
    line(pen, (const double[]){x - 9, y + 5, x - 9, y + 11}, 2, INK_PLAIN, 1);
}

static void arrow(const symbol_pen *pen, double x, double y, double to_x, double to_y, double size)
{
    const double angle = atan2(to_y - y, to_x - x);
    symbol_wire(pen, x, y, to_x, to_y, INK_PLAIN);
    solid(pen,
          (const double[]){to_x, to_y, to_x - size * cos(angle - 0.45), to_y - size * sin(angle - 0.45),
                           to_x - size * cos(angle + 0.45), to_y - size * sin(angle + 0.45)},
          3);
}

void symbol_diode(const symbol_pen *pen, double x, double y, bool is_cathode_inwards, bool is_led)
{
    const double tip = x + (is_cathode_inwards ? 26 : 14);
    const double tail = x + (is_cathode_inwards ? 14 : 26);
    legs(pen, x, y, 12);
    solid(pen, (const double[]){tail, y - 7, tail, y + 7, tip, y}, 3);
    line(pen, (const double[]){tip, y - 7, tip, y + 7}, 2, INK_PLAIN, 2);
    for (int i = 0; i < 2 && is_led; i++) {
        arrow(pen, x + 17 + 6 * i, y - 9, x + 22 + 6 * i, y - 17, 5);
    }
}

void symbol_transistor(const symbol_pen *pen, double x, double y, symbol_switch type)
{
    enum { IN_PX = 16 };
    const double end = x + IN_PX;
    if (type == SYMBOL_SWITCH_NMOS) {
        line(pen, (const double[]){x, y - 9, x, y + 9}, 2, INK_PLAIN, 1.5);
        for (int i = -1; i <= 1; i++) {
            line(pen, (const double[]){x + 4, y + 7 * i - 3, x + 4, y + 7 * i + 3}, 2, INK_PLAIN, 2);
        }
        line(pen, (const double[]){x + 4, y - 7, end, y - 7, end, y - 16}, 3, INK_PLAIN, 1.5);
        line(pen, (const double[]){x + 4, y + 7, end, y + 7, end, y + 16}, 3, INK_PLAIN, 1.5);
        arrow(pen, end, y, x + 5, y, 6);
        symbol_wire(pen, end, y, end, y + 7, INK_PLAIN);
        return;
    }
    line(pen, (const double[]){x, y - 9, x, y + 9}, 2, INK_PLAIN, 2.5);
    symbol_wire(pen, x, y - 4, end, y - 13, INK_PLAIN);
    symbol_wire(pen, x, y + 4, end, y + 13, INK_PLAIN);
    symbol_wire(pen, end, y - 13, end, y - 16, INK_PLAIN);
    symbol_wire(pen, end, y + 13, end, y + 16, INK_PLAIN);
    if (type == SYMBOL_SWITCH_NPN) {
        arrow(pen, x + 5, y + 6.8, x + 14, y + 11.9, 6);
    } else {
        arrow(pen, x + 14, y - 11.9, x + 5, y - 6.8, 6);
    }
}

void symbol_ground(const symbol_pen *pen, double x, double y)
{
    line(pen, (const double[]){x - 8, y, x + 8, y}, 2, INK_PLAIN, 1.5);
    line(pen, (const double[]){x - 5, y + 3.5, x + 5, y + 3.5}, 2, INK_PLAIN, 1.5);
    line(pen, (const double[]){x - 2, y + 7, x + 2, y + 7}, 2, INK_PLAIN, 1.5);
}

void symbol_flag(const symbol_pen *pen, double x, double y, const char *name)
{
    const picture_type type = {12, false, TEXT_AROUND, INK_SUPPLY};
    line(pen, (const double[]){x, y, x, y - 5}, 2, INK_SUPPLY, 1.5);
    line(pen, (const double[]){x - 8, y - 5, x + 8, y - 5}, 2, INK_SUPPLY, 1.5);
    picture_text(pen->canvas, across(pen, x), y - 8, type, name);
}

void symbol_text(const symbol_pen *pen, double x, double y, const char *text)
{
    picture_text(pen->canvas, across(pen, x), y, small, text);
}

static void put_side(const symbol_pen *pen, double x, double y, const char *text, bool is_inwards)
{
    const picture_type type = {12, false, is_inwards == (pen->way > 0) ? TEXT_FROM : TEXT_UP_TO, INK_PLAIN};
    picture_text(pen->canvas, across(pen, x), y, type, text);
}

void symbol_text_inwards(const symbol_pen *pen, double x, double y, const char *text)
{
    put_side(pen, x, y, text, true);
}

void symbol_text_outwards(const symbol_pen *pen, double x, double y, const char *text)
{
    put_side(pen, x, y, text, false);
}
