#!/bin/sh
# Writes include/dromikos/internal/features.h, from features.def.h: the preprocessor can't define macros by a list.
set -eu
cd "$(dirname "$0")/../include/dromikos"
lines=$(sed -n 's/^DROM_\(FEATURE\|OPTION\)(\([A-Z_]*\), \([01]\), .*/\2 \3/p' features.def.h)

cat <<'END'
/* Defaults of the switches, and link symbols. Generated from features.def.h by src/features.sh. */
#ifndef DROMIKOS_INTERNAL_FEATURES_H
#define DROMIKOS_INTERNAL_FEATURES_H
/* clang-format off */

#ifdef DROM_PROFILE_SMALL
#define DROM_IN_PROFILE(small) small
#else
#define DROM_IN_PROFILE(small) 1
#endif

END
echo "$lines" | while read -r name small; do
    printf '#ifndef DROM_WITH_%s\n#define DROM_WITH_%s DROM_IN_PROFILE(%s)\n#endif\n' "$name" "$name" "$small"
done
cat <<'END'

#ifdef DROM_PLAN
#define DROM_IS_BOUND 1
#else
#define DROM_IS_BOUND 0
#endif

/* A symbol contains all switches: a program and a library with different ones don't link. */
END
parameters=$(echo "$lines" | awk '{printf ", f%d", NR}')
pasted=$(echo "$lines" | awk '{printf "##f%d", NR}')
printf '#define DROM_JOIN_ALL(name, bound%s, edges) name##_with_##bound%s##_##edges\n' "$parameters" "$pasted"
printf '#define DROM_JOIN(...) DROM_JOIN_ALL(__VA_ARGS__)\n'
printf '#define DROM_CONFIGURED(name) DROM_JOIN(name, DROM_IS_BOUND'
echo "$lines" | while read -r name small; do
    printf ', DROM_WITH_%s' "$name"
done
printf ', DROM_EDGES)\n\n/* clang-format on */\n#endif\n'
