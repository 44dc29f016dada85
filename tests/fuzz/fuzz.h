/* Shared by the fuzz targets. Each takes any bytes and must end without a fault. */
#ifndef DROMIKOS_TESTS_FUZZ_H
#define DROMIKOS_TESTS_FUZZ_H

#include <stddef.h>
#include <stdint.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

#endif
