// What counts as a character of the language, and how stray bytes are shown.
//
// Texts are UTF-8. A stray byte counts as one character of its own, so that columns are defined for
// any file.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>

#include "base/utf8.hpp"

namespace orchard::syntax {

enum class CharacterClass { space, open, close, comment, symbol, stray };

// `stray`: invalid bytes, control characters, spaces other than the plain ones, and marks that change
// the direction of writing.
CharacterClass class_of(const Character& character);

// Letters of names that the infix syntax takes without quotes.
inline bool is_digit(char c) {
  return c >= '0' && c <= '9';
}
inline bool is_small_letter(char c) {
  return c >= 'a' && c <= 'z';
}
inline bool is_capital_letter(char c) {
  return c >= 'A' && c <= 'Z';
}
inline bool is_word_letter(char c) {
  return is_digit(c) || is_small_letter(c) || is_capital_letter(c) || c == '_';
}

int count_characters(std::string_view text);

// `count` characters of a line after skipping `skip`; what cannot be shown becomes U+FFFD, so
// that a printed message never carries control codes from a file.
std::string printable_excerpt(std::string_view line, int skip, int count);

// A name for messages: `no-break space (U+00A0)`, `byte 0xFF`, `control character U+0001`.
std::string describe(const Character& character);

}  // namespace orchard::syntax
