/* All of the core's public headers. */
#ifndef DROMIKOS_DROMIKOS_H
#define DROMIKOS_DROMIKOS_H

#include "call.h"
#include "drive.h"
#include "engine.h"
#include "keyboard.h"
#include "lamp.h"
#include "motor.h"
#include "part.h"
#include "protocols.h"
#include "relay.h"
#include "sender.h"
#include "servo.h"
#include "stepper.h"
#include "strip.h"

#endif
