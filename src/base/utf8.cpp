#include "base/utf8.hpp"

#include <fmt/core.h>

#include <functional>

namespace orchard {
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

bool is_safe(const Character& character) {
  if (character.code == '\n' || character.code == '\t') return true;
  return character.valid && !is_control(character.code) && !changes_direction(character.code);
}

std::string with_unsafe(std::string_view text,
                        const std::function<std::string(const Character&)>& shown) {
  std::string result;
  while (!text.empty()) {
    const Character character = first_character(text);
    if (is_safe(character)) {
      result += text.substr(0, character.bytes);
    } else {
      result += shown(character);
    }
    text.remove_prefix(character.bytes);
  }
  return result;
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

bool is_control(char32_t code) {
  return code < 0x20 || (code >= 0x7F && code < 0xA0);
}

bool changes_direction(char32_t code) {
  return (code >= 0x202A && code <= 0x202E) || (code >= 0x2066 && code <= 0x2069) ||
         code == 0x200E || code == 0x200F || code == 0x061C;
}

std::string safe_for_terminal(std::string_view text) {
  return with_unsafe(text, [](const Character& unsafe) {
    const auto code = static_cast<std::uint32_t>(unsafe.code);
    return unsafe.valid && code > 0xFF ? fmt::format("\\u{{{:x}}}", code)
                                       : fmt::format("\\x{:02x}", code);
  });
}

std::string safe_for_markup(std::string_view text) {
  constexpr std::string_view replacement = "\uFFFD";
  std::string result =
      with_unsafe(text, [&](const Character&) { return std::string(replacement); });
  // The two that are well-formed and nobody's: U+FFFE and U+FFFF.
  for (const std::string_view nobodys : {"\uFFFE", "\uFFFF"}) {
    for (std::size_t at = result.find(nobodys); at != std::string::npos;
         at = result.find(nobodys, at)) {
      result.replace(at, nobodys.size(), replacement);
    }
  }
  return result;
}

}  // namespace orchard
