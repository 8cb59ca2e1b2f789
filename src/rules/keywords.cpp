#include "rules/keywords.hpp"

#include <algorithm>
#include <array>

namespace orchard::rules {
namespace {

constexpr std::array table = {
    KeywordFacts{Keyword::role, "role", 1, true, true, "(role ROLE)"},
    KeywordFacts{Keyword::init, "init", 1, true, false, "(init FLUENT)"},
    KeywordFacts{Keyword::true_, "true", 1, false, true, "(true FLUENT)"},
    KeywordFacts{Keyword::does, "does", 2, false, true, "(does ROLE MOVE)"},
    KeywordFacts{Keyword::next, "next", 1, true, false, "(next FLUENT)"},
    KeywordFacts{Keyword::legal, "legal", 2, true, true, "(legal ROLE MOVE)"},
    KeywordFacts{Keyword::goal, "goal", 2, true, true, "(goal ROLE VALUE)"},
    KeywordFacts{Keyword::terminal, "terminal", 0, true, true, "terminal"},
    KeywordFacts{Keyword::base, "base", 1, true, true, "(base FLUENT)"},
    KeywordFacts{Keyword::input, "input", 2, true, true, "(input ROLE MOVE)"},
    KeywordFacts{Keyword::sees, "sees", 2, true, false, "(sees ROLE PERCEPT)"},
};

constexpr std::array<std::string_view, 5> connectives = {"<=", "not", "or", "and", "distinct"};

}  // namespace

std::span<const KeywordFacts> keyword_table() {
  return table;
}

const KeywordFacts* find_keyword(std::string_view name) {
  const auto found = std::ranges::find(table, name, &KeywordFacts::name);
  return found == table.end() ? nullptr : &*found;
}

std::string_view name_of(Keyword keyword) {
  const auto found = std::ranges::find(table, keyword, &KeywordFacts::keyword);
  return found == table.end() ? std::string_view{} : found->name;
}

bool is_connective(std::string_view name) {
  return std::ranges::find(connectives, name) != connectives.end();
}

}  // namespace orchard::rules
