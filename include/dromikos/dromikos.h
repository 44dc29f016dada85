/* All of the core's public headers. */
#ifndef DROMIKOS_DROMIKOS_H
#define DROMIKOS_DROMIKOS_H

#include "engine.h"
#include "protocols.h"
#include "relay.h"

#endif
