#include "editing/grammar.hpp"

#include <algorithm>
#include <array>
#include <vector>

#include "review/claims/claim_rules.hpp"
#include "rules/keywords.hpp"
#include "syntax/directives.hpp"

namespace orchard::editing {

namespace {

// The kinds of claims, and what builds formulas.
const std::vector<std::string_view>& claim_words() {
  static const std::vector<std::string_view> words = [] {
    std::vector<std::string_view> result{"claim", "implies", "exists", "forall"};
    for (const review::ClaimFacts& facts : review::claim_table()) result.push_back(facts.name);
    return result;
  }();
  return words;
}

constexpr std::array<std::string_view, 12> case_words{
    "case",   "position",    "start",   "drawn", "moves", "joint",
    "expect", "legal-moves", "refused", "best",  "value", "wins-within"};

Part within_word(Paper paper, std::string_view head, std::size_t argument) {
  if (paper == Paper::claims) {
    if (head == "exists" || head == "forall") {
      return argument == 1 ? Part::term : argument == 2 ? Part::range : Part::condition;
    }
    return head == "exclusive" ? (argument == 1 ? Part::fluent : Part::term) : Part::condition;
  }
  if (head == "expect") return Part::condition;
  if (head == "position") return Part::fluent;
  if (head == "legal-moves" || head == "refused" || head == "best") {
    return argument == 1 ? Part::term : Part::move;
  }
  return Part::loose;
}

Part within_directive(std::string_view head, std::size_t argument, Part form) {
  if (head == "#for") return argument <= 3 ? Part::term : form;
  if (head == "#count") {
    return argument == 1 ? Part::term : argument == 2 ? Part::head : Part::condition;
  }
  return Part::term;
}

}  // namespace

Paper paper_of(std::string_view file_name) {
  if (file_name.ends_with(".cases")) return Paper::cases;
  if (file_name.ends_with(".claims")) return Paper::claims;
  if (file_name.ends_with(".draw")) return Paper::drawing;
  if (file_name.ends_with(".positions")) return Paper::positions;
  return Paper::rules;
}

std::span<const std::string_view> words_of(Paper paper) {
  if (paper == Paper::claims) return claim_words();
  if (paper == Paper::cases || paper == Paper::positions) return case_words;
  return {};
}

bool is_word(Paper paper, std::string_view head) {
  return std::ranges::find(words_of(paper), head) != words_of(paper).end();
}

Part part_within(Paper paper, std::string_view head, std::size_t argument, Part form) {
  if (syntax::find_directive(head) != nullptr) return within_directive(head, argument, form);
  if (is_word(paper, head)) return within_word(paper, head, argument);
  const rules::KeywordFacts* const keyword = rules::find_keyword(head);
  if (!is_atom(form) && form != Part::loose) return Part::term;
  if (keyword == nullptr) {
    if (!rules::is_connective(head) || head == "distinct") return Part::term;
    return head == "<=" && argument == 1 ? Part::head : Part::condition;
  }
  using rules::Keyword;
  switch (keyword->keyword) {
    case Keyword::true_:
    case Keyword::init:
    case Keyword::next:
    case Keyword::base:
      return Part::fluent;
    case Keyword::legal:
    case Keyword::does:
    case Keyword::input:
      return argument == 2 ? Part::move : Part::term;
    default:
      return Part::term;
  }
}

}  // namespace orchard::editing
