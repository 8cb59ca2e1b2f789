#include "rules/misspelled.hpp"

#include <algorithm>

#include "base/similar.hpp"
#include "rules/keywords.hpp"

namespace orchard::rules {

std::vector<MisspelledHead> misspelled_heads(const Description& description) {
  std::vector<bool> asked(description.relations().size(), false);
  for (const Clause& clause : description.clauses()) {
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) asked[index_of(literal.atom.relation)] = true;
    }
  }
  std::vector<MisspelledHead> result;
  for (std::size_t r = 0; r < asked.size(); ++r) {
    const Relation& relation = description.relations()[r];
    if (asked[r] || !relation.concluded || relation.keyword != Keyword::none) continue;
    std::vector<std::string> names;
    for (const KeywordFacts& facts : keyword_table()) {
      if (facts.in_heads && facts.arity == relation.arity) names.emplace_back(facts.name);
    }
    const std::string& name = description.terms().name(relation.name);
    const auto meant = most_similar(name, names);
    if (!meant) continue;
    // Nearer to something that is asked for and never concluded: that is where the slip is.
    const bool is_asked_otherwise =
        std::ranges::any_of(description.relations(), [&](const Relation& other) {
          return !other.concluded && other.keyword == Keyword::none &&
                 other.arity == relation.arity &&
                 edit_distance(name, description.terms().name(other.name)) <=
                     edit_distance(name, *meant);
        });
    if (is_asked_otherwise) continue;
    result.push_back({static_cast<RelationId>(r), find_keyword(*meant)->keyword});
  }
  return result;
}

}  // namespace orchard::rules
