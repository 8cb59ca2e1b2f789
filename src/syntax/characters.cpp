#include "syntax/characters.hpp"

#include <fmt/core.h>

namespace orchard::syntax {
namespace {

bool is_foreign_space(char32_t code) {
  return code == 0x85 || code == 0xA0 || code == 0x1680 || (code >= 0x2000 && code <= 0x200F) ||
         (code >= 0x2028 && code <= 0x202F) || code == 0x205F || code == 0x2060 || code == 0x3000 ||
         code == 0xFEFF;
}

}  // namespace

CharacterClass class_of(const Character& character) {
  if (!character.valid) return CharacterClass::stray;
  switch (character.code) {
    case ' ':
    case '\t':
    case '\n':
    case '\r':
    case '\f':
    case '\v':
      return CharacterClass::space;
    case '(':
      return CharacterClass::open;
    case ')':
      return CharacterClass::close;
    case ';':
      return CharacterClass::comment;
    default:
      break;
  }
  if (is_control(character.code) || is_foreign_space(character.code) ||
      changes_direction(character.code)) {
    return CharacterClass::stray;
  }
  return CharacterClass::symbol;
}

int count_characters(std::string_view text) {
  int count = 0;
  for (std::size_t at = 0; at < text.size(); at += first_character(text.substr(at)).bytes) ++count;
  return count;
}

std::string printable_excerpt(std::string_view line, int skip, int count) {
  std::string result;
  for (std::size_t at = 0; at < line.size() && count > 0;) {
    const Character character = first_character(line.substr(at));
    if (skip > 0) {
      --skip;
    } else {
      const bool shown = class_of(character) != CharacterClass::stray;
      result += shown ? line.substr(at, character.bytes) : std::string_view("\uFFFD");
      --count;
    }
    at += character.bytes;
  }
  return result;
}

std::string describe(const Character& character) {
  const auto code = static_cast<std::uint32_t>(character.code);
  if (!character.valid) return fmt::format("byte 0x{:02X} (not UTF-8)", code);
  if (code == 0xA0) return "no-break space (U+00A0)";
  if (is_control(character.code)) return fmt::format("control character U+{:04X}", code);
  return fmt::format("invisible character U+{:04X}", code);
}

}  // namespace orchard::syntax
