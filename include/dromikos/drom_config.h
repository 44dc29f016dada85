/* Your configuration; config.h lists what this file may define. This one is empty: the target's default
 * profile, for any plan on any port. */
#ifndef DROMIKOS_DROM_CONFIG_H
#define DROMIKOS_DROM_CONFIG_H

#endif
