#include "syntax/characters.hpp"

#include <fmt/core.h>

namespace orchard::syntax {
namespace {

std::uint32_t sequence_length(unsigned char lead) {
  if (lead < 0x80) return 1;
  if (lead >= 0xC2 && lead <= 0xDF) return 2;
  if (lead >= 0xE0 && lead <= 0xEF) return 3;
  if (lead >= 0xF0 && lead <= 0xF4) return 4;
  return 0;
}

bool is_too_short_or_surrogate(char32_t code, std::uint32_t length) {
  if (length == 3) return code < 0x800 || (code >= 0xD800 && code <= 0xDFFF);
  if (length == 4) return code < 0x10000 || code > 0x10FFFF;
  return false;
}

bool is_foreign_space(char32_t code) {
  return code == 0x85 || code == 0xA0 || code == 0x1680 || (code >= 0x2000 && code <= 0x200F) ||
         (code >= 0x2028 && code <= 0x202F) || code == 0x205F || code == 0x2060 || code == 0x3000 ||
         code == 0xFEFF;
}

bool is_control(char32_t code) {
  return code < 0x20 || (code >= 0x7F && code < 0xA0);
}

}  // namespace

Character first_character(std::string_view text) {
  const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
  const std::uint32_t length = sequence_length(byte(0));
  const Character stray{byte(0), 1, false};
  if (length == 1) return {byte(0), 1, true};
  if (length == 0 || text.size() < length) return stray;
  char32_t code = byte(0) & (0x7Fu >> length);
  for (std::uint32_t i = 1; i < length; ++i) {
    if ((byte(i) & 0xC0) != 0x80) return stray;
    code = (code << 6) | (byte(i) & 0x3F);
  }
  if (is_too_short_or_surrogate(code, length)) return stray;
  return {code, length, true};
}

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
  if (is_control(character.code) || is_foreign_space(character.code)) return CharacterClass::stray;
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
