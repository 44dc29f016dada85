/* An observer: a terminal, a log. */
#ifndef DROMIKOS_OBSERVER_H
#define DROMIKOS_OBSERVER_H

#include "rules.h"

/** Any of the functions may be null; none may call the engine. */
typedef struct drom_observer {
    void *context;
    void (*frame)(void *context, const drom_frame *frame);
    void (*key)(void *context, const drom_key_event *event);
    void (*event)(void *context, const drom_event *event); /**< of any source but keys; its rules come next */
    void (*rule)(void *context, uint8_t row);              /**< has fired, or what it holds is undone */
    void (*action)(void *context, const drom_action *action); /**< is about to begin */
    void (*wait_ended)(void *context, uint8_t rule_row);      /**< though the output was still busy */
} drom_observer;

/** The rules' observer; null: none. */
static inline const drom_observer *drom_observer_of(const drom_rules *rules)
{
    return DROM_WITH_OBSERVER ? rules->observer : NULL;
}

#endif
