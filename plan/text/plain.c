/* Texts come from plans, sheets, captures and the command line, and are shown on terminals and in pictures:
 * control characters are replaced. */
#include "plan/text/plain.h"

gunichar plain_sign(const char *at, gssize *bytes)
{
    enum { NO_SIGN = 0xfffd, PICTURES = 0x2400, PICTURE_OF_DELETE = 0x2421, SPACE = 0x20, DELETE = 0x7f };
    const gunichar sign = g_utf8_get_char_validated(at, -1);
    *bytes = sign == (gunichar)-1 || sign == (gunichar)-2 ? 1 : (gssize)g_unichar_to_utf8(sign, NULL);
    if (sign == '\n' || sign == '\t') {
        return sign;
    }
    if (sign < SPACE) {
        return PICTURES + sign;
    }
    if (sign == DELETE) {
        return PICTURE_OF_DELETE;
    }
    const bool is_broken = *bytes == 1 && sign > DELETE;
    const bool is_control = sign > DELETE && sign < 0xa0;
    const bool ends_a_line = sign == 0x2028 || sign == 0x2029;
    const bool turns_the_line_round =
        (sign >= 0x202a && sign <= 0x202e) || (sign >= 0x2066 && sign <= 0x2069);
    const bool is_none = sign == 0xfffe || sign == 0xffff;
    return is_broken || is_control || ends_a_line || turns_the_line_round || is_none ? NO_SIGN : sign;
}

char *plain_text(const char *text)
{
    GString *const plain = g_string_new(NULL);
    gssize bytes = 0;
    for (const char *at = text; *at != '\0'; at += bytes) {
        g_string_append_unichar(plain, plain_sign(at, &bytes));
    }
    return g_string_free(plain, FALSE);
}
