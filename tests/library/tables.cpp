// Tables in C++ are refused: on AVR they would be in RAM, and be read from flash.
#include "dromikos/plan.h"
