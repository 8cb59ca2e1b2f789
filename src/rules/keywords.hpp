// The one table of the language's keywords: arity, and where each may stand.
#pragma once

#include <span>
#include <string_view>

#include "rules/description.hpp"

namespace orchard::rules {

struct KeywordFacts {
  Keyword keyword = Keyword::none;
  std::string_view name;
  std::uint32_t arity = 0;
  bool in_heads = false;
  bool in_bodies = false;
  std::string_view shape;  // how it is written, for messages
};

std::span<const KeywordFacts> keyword_table();
const KeywordFacts* find_keyword(std::string_view name);  // null if it is none
std::string_view name_of(Keyword keyword);

// `<=`, `not`, `or`, `and`, `distinct`: words that build rules and are no relations.
bool is_connective(std::string_view name);

}  // namespace orchard::rules
