// Characters of UTF-8, and texts of strangers made safe to show: names and paths may hold bytes
// that a terminal obeys, that XML cannot hold, or that make a text look like another one.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace orchard {

struct Character {
  char32_t code = 0;
  std::uint32_t bytes = 1;
  bool valid = true;  // false: `code` is the stray byte
};

// The character at the head of a non-empty text. A byte that is no part of well-formed UTF-8 counts
// as one character of its own.
Character first_character(std::string_view text);

// Of ASCII and of Latin-1.
bool is_control(char32_t code);
// Marks that change the direction of what follows: embeddings, overrides and isolates.
bool changes_direction(char32_t code);

// For a terminal: what it would obey, what turns the text around and stray bytes stand there as
// \x1b or \u{202e}. Line ends and tabs stay.
std::string safe_for_terminal(std::string_view text);
// For XML, HTML and SVG, before escaping: the same, and what XML cannot hold, as U+FFFD.
std::string safe_for_markup(std::string_view text);

}  // namespace orchard
