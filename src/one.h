/* Where the rooms find their tables and their machine. Private to src/.
 *
 * A program that has one plan and one machine may say so when it is compiled: -DDROM_PLAN=lantern_plan
 * -DDROM_PORT=drom_avr_port, the same for the library and the program. The compiler, which optimises when
 * linking, then sees through every table: what the plan doesn't use isn't in the program, and calls of the
 * port are plain calls; where that slices its refreshes, no edge is late, and no tolerance is needed. Such a
 * plan counts as checked. Its header, lantern_plan.h, is where bake says what the protocols of the plan have
 * in common, which the compiler can't see. Where the plan sends one protocol, such a program's encoder knows
 * no other, unless it is compiled with -DDROM_ENCODES_ANY. */
#ifndef DROMIKOS_ONE_H
#define DROMIKOS_ONE_H

#include "../include/dromikos/engine.h"
#include "../include/dromikos/needs.h"

/* where the engine's keys report their events; `context` is the engine. */
drom_key_sink drom_take_key_event;

#ifdef DROM_PLAN
extern const drom_plan DROM_FLASH DROM_PLAN;
extern const drom_port DROM_FLASH DROM_PORT;

#define DROM_PLAN_OF(engine) ((void)(engine), &DROM_PLAN)
#define DROM_RECEIVE_OF(receiver) ((void)(receiver), &DROM_PLAN.receive)
#define DROM_KEYS_OF(keys) ((void)(keys), &DROM_PLAN.keys)
#define DROM_RULES_OF(rules) ((void)(rules), &DROM_PLAN.rules)
#define DROM_OUTPUTS_OF(rules) ((void)(rules), &DROM_PLAN.outputs)
#define DROM_PORT_OF(timing) ((void)(timing), &DROM_PORT)
#define DROM_TOLERANCE(us) (DROM_PORT.facts.can_slice ? 0u : (us))
#define DROM_CHECK(function) (1 ? NULL : (function))
#define DROM_POINT(pointer, at) ((void)(at)) /* there is no such member */
#define DROM_REPORT_KEY(keys, event)                                                                         \
    drom_take_key_event((char *)(uintptr_t)(keys)-offsetof(drom_engine, keys), event)
#else
#define DROM_PLAN_OF(engine) ((engine)->plan)
#define DROM_RECEIVE_OF(receiver) ((receiver)->plan)
#define DROM_KEYS_OF(keys) ((keys)->plan)
#define DROM_RULES_OF(rules) ((rules)->plan)
#define DROM_OUTPUTS_OF(rules) ((rules)->outputs)
#define DROM_PORT_OF(timing) ((timing)->port)
#define DROM_TOLERANCE(us) (us)
#define DROM_CHECK(function) (function)
#define DROM_POINT(pointer, at) ((pointer) = (at))
#define DROM_REPORT_KEY(keys, event) ((keys)->sink((keys)->context, event))
#endif

/* Of what some protocols that are received have, those of the plan may have none; and a handset may ask for a
 * second frame before a press is believed. */
#ifdef DROM_PLAN
#define DROM_PAUSE_OF(timing) (DROM_PLAN_HAS_PAUSES ? (timing)->pause_us : (uint16_t)0)
#define DROM_LEADS_ONCE(timing) (DROM_PLAN_LEADS_ONCE && (timing)->has_leader_but_once)
#define DROM_CONFIRMS(handset) (DROM_PLAN_CONFIRMS && (handset)->needs_second_frame)
#define DROM_LISTS(handset) (DROM_PLAN_LISTS && (handset)->by_code.count > 0)
#define DROM_IS_UNSURE(hold) (DROM_PLAN_CONFIRMS && (hold)->state == DROM_KEY_UNSURE)
#else
#define DROM_PAUSE_OF(timing) ((timing)->pause_us)
#define DROM_LEADS_ONCE(timing) ((timing)->has_leader_but_once)
#define DROM_CONFIRMS(handset) ((handset)->needs_second_frame)
#define DROM_LISTS(handset) ((handset)->by_code.count > 0)
#define DROM_IS_UNSURE(hold) ((hold)->state == DROM_KEY_UNSURE)
#endif

/* What the rules do. */
#ifdef DROM_PLAN
#undef DROM_RULES_USED
#define DROM_RULES_USED DROM_PLAN_RULES
#endif
#ifndef DROM_RULES_USED
#define DROM_RULES_USED DROM_RULES_ALL
#endif
#define DROM_RULES_DO(any_of) ((DROM_RULES_USED & (any_of)) != 0)
/* A function that is called where they do. */
#define DROM_WHERE_RULES(any_of, function) (DROM_RULES_DO(any_of) ? (function) : NULL)

/* It may receive just one bi-phase protocol. */
#ifdef DROM_PLAN_PHASE
#define DROM_PHASE_OF(protocol) ((void)(protocol), &DROM_PLAN_PHASE)
#else
#define DROM_PHASE_OF(protocol) (protocol)
#endif

/* All that it sends may be of one protocol. `encoder`: what has a waveform. */
#if defined(DROM_PLAN_WAVEFORM) && !defined(DROM_ENCODES_ANY)
#define DROM_WAVEFORM_OF(encoder) ((void)(encoder), &DROM_PLAN_WAVEFORM)
#define DROM_IS_SENT(waveform) ((waveform) == &DROM_PLAN_WAVEFORM)
#else
#define DROM_WAVEFORM_OF(encoder) ((encoder)->waveform)
#define DROM_IS_SENT(waveform) ((void)(waveform), true)
#endif

/* It may have one output of a kind, whose settings are then known: the header says so in macros like these.
 */
#ifndef DROM_LAMP_SETTINGS
#define DROM_LAMP_SETTINGS(settings) (settings)
#endif
#ifndef DROM_STEPPER_SETTINGS
#define DROM_STEPPER_SETTINGS(settings) (settings)
#endif
#ifndef DROM_STRIP_SETTINGS
#define DROM_STRIP_SETTINGS(settings) (settings)
#endif
#ifndef DROM_SENDER_SETTINGS
#define DROM_SENDER_SETTINGS(settings) (settings)
#endif

/* A program that never calls drom_engine_observe() may say that, too: -DDROM_UNOBSERVED. */
#ifdef DROM_UNOBSERVED
#define DROM_OBSERVER_OF(rules) ((void)(rules), (const drom_observer *)NULL)
#else
#define DROM_OBSERVER_OF(rules) ((rules)->observer)
#endif

#endif
