/* The ear as a program of its own; the sketch does the same. */
#include "ear.h"

int main(void)
{
    ear_begin();
    for (;;) {
        ear_poll();
    }
}
