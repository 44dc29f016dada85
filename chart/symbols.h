/* Symbols of a circuit, drawn from the pin's side inwards, on either side. */
#ifndef DROMIKOS_CHART_SYMBOLS_H
#define DROMIKOS_CHART_SYMBOLS_H

#include "chart/picture.h"

/* The start of a drawing, and its direction: 1 to the right, -1 to the left. */
typedef struct symbol_pen {
    picture *canvas;
    double x;
    int way;
} symbol_pen;

/* Wires. `ink` is what they carry. */
void symbol_wire(const symbol_pen *pen, double x, double y, double to_x, double to_y, picture_ink ink);
void symbol_dot(const symbol_pen *pen, double x, double y, picture_ink ink);

/* With legs at both ends: 40 px from x inwards, or down from y. */
void symbol_resistor(const symbol_pen *pen, double x, double y);
void symbol_resistor_down(const symbol_pen *pen, double x, double y);
void symbol_coil(const symbol_pen *pen, double x, double y);
void symbol_motor(const symbol_pen *pen, double x, double y);
void symbol_lamp(const symbol_pen *pen, double x, double y);
void symbol_contact(const symbol_pen *pen, double x, double y);
void symbol_capacitor_down(const symbol_pen *pen, double x, double y);

/* Its cathode is inwards, or outwards; a LED has arrows. */
void symbol_diode(const symbol_pen *pen, double x, double y, bool is_cathode_inwards, bool is_led);

/* The control leg ends at (x, y); the other two are 16 px further in, 16 px up and down. */
typedef enum symbol_switch { SYMBOL_SWITCH_NPN, SYMBOL_SWITCH_PNP, SYMBOL_SWITCH_NMOS } symbol_switch;
void symbol_transistor(const symbol_pen *pen, double x, double y, symbol_switch type);

/* Ground below a point, and a named supply above one. */
void symbol_ground(const symbol_pen *pen, double x, double y);
void symbol_flag(const symbol_pen *pen, double x, double y, const char *name);

/* A text around a point. */
void symbol_text(const symbol_pen *pen, double x, double y, const char *text);
/* A text that begins at a point and goes inwards, and one that ends there. */
void symbol_text_inwards(const symbol_pen *pen, double x, double y, const char *text);
void symbol_text_outwards(const symbol_pen *pen, double x, double y, const char *text);

/* A box of this size, with its upper corner at a point. */
void symbol_box(const symbol_pen *pen, double x, double y, double width, double height);

#endif
