/* Which rule is about which key event. */
#include "../../include/dromikos/rules.h"

bool drom_rule_fits(const drom_rule DROM_FLASH *rule, const drom_key_event *event)
{
    return rule->key == event->key && rule->handset == event->handset &&
           (rule->gestures & event->gesture) != 0 &&
           (event->gesture != DROM_HOLD || rule->hold == event->hold);
}
