/* Workarounds for compilers. Each .c file of the core and of the AVR port includes this file; the files of a
 * program don't, so that their options stay their own. */
#ifndef DROMIKOS_COMPILER_H
#define DROMIKOS_COMPILER_H

#ifdef __AVR__
/* avr-gcc 5.4 copies a struct from flash correctly; but if only a part of the copy is used, it reads that
 * part from RAM, at the same address: scalar replacement of aggregates drops the address space. tests/avr.sh
 * detects it. */
#pragma GCC optimize("no-tree-sra")

/** A function that must not be inlined: 32-bit operations are long on an 8-bit chip. */
#define DROM_NOINLINE __attribute__((noinline))
#else
#define DROM_NOINLINE
#endif

#endif
