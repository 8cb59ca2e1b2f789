// Short signs for what stands on a square, chosen to differ.
#pragma once

#include <map>
#include <string_view>
#include <vector>

#include "picture/inferred/layout.hpp"

namespace orchard {

// A glyph for each content: numbers stand for themselves, other names for their first letters, as
// many as it takes to differ from the other names on the board (three at most).
std::map<Content, Glyph> choose_glyphs(const GameCore& core, const BoardLayout& board,
                                       const std::vector<Content>& contents);

std::size_t character_count(std::string_view text);

}  // namespace orchard
