// What there is to know of a name: what it is for, what can stand in it, what holds at the start.
#pragma once

#include <string>
#include <vector>

#include "editing/names.hpp"
#include "editing/shelf.hpp"

namespace orchard::editing {

struct Insight {
  std::string shape;               // "(line ?who)"; how it is written
  std::vector<std::string> lines;  // sentences, the comment above its first rule first
};

// Of a name of a text. `rules`: the names of the rules that the text belongs to, its own if it is
// those; `reading`: what was read of them, null if nothing was. O(text).
Insight insight_of(const Names& text, const Name& name, const Names& rules, const Reading* reading);

// What a keyword, a directive or a word means, in a sentence; empty if it is none.
std::string meaning_of(std::string_view word);
std::string shape_of(std::string_view word);

}  // namespace orchard::editing
