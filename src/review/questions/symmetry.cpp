// In how many ways the game can be turned, mirrored or renamed, and which fact alone keeps it from
// more: a line that was mistyped, or whose counterpart was lost, stands out so.
#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "base/counted.hpp"
#include "explore/symmetry/symmetry.hpp"
#include "review/questions/questions.hpp"
#include "syntax/tree.hpp"

namespace orchard::review {

namespace {

using ground::GroundProgram;
using syntax::NodeIndex;

constexpr std::size_t most_ways = 100;  // more are not counted

// Ways to rename fluents and moves that leave roles, rules and start as they are, the one that
// changes nothing among them; none if they cannot be found.
std::optional<std::size_t> ways_of(const GroundProgram& ground) {
  explore::SymmetryFinder finder(ground);
  std::set<std::pair<std::vector<std::uint32_t>, std::vector<std::vector<std::uint32_t>>>> ways;
  const bool all = finder.each_of_start([&](const explore::Automorphism& one) {
    for (std::uint32_t role = 0; role < one.roles.size(); ++role) {
      if (one.roles[role] != role) return true;
    }
    ways.insert({one.fluents, one.moves});
    return ways.size() <= most_ways;
  });
  if (!all && ways.size() <= most_ways) return std::nullopt;
  return ways.size();
}

std::string ways_text(std::size_t ways) {
  return ways > most_ways ? fmt::format("more than {} ways", most_ways)
                          : counted(ways, "way", "ways");
}

// The rules without a fact, on their own.
std::optional<std::size_t> ways_without(const rules::Description& description, NodeIndex fact) {
  const auto rest = rules::Description::extend_without(
      description, {}, {}, [fact](const syntax::Tree&, NodeIndex form) { return form == fact; });
  ground::Limits limits;
  limits.bytes = 64 << 20;
  limits.splitting = ground::Splitting::none();
  const auto ground = GroundProgram::make(rest, limits);
  return ground ? ways_of(**ground) : std::nullopt;
}

// Whether a relation of two only says what follows what. Cut in two, any order would look more
// even.
bool is_order(const rules::Description& description, const rules::Relation& relation) {
  if (relation.arity != 2) return false;
  std::set<std::uint32_t> firsts;
  std::set<std::uint32_t> seconds;
  for (const std::uint32_t number : relation.clauses) {
    const rules::Pattern& pattern = description.clauses()[number].head.arguments;
    if (!description.clauses()[number].body.empty() || pattern.size() != 2) return false;
    if (!firsts.insert(pattern[0].value).second || !seconds.insert(pattern[1].value).second) {
      return false;
    }
  }
  return true;
}

// Facts of tables that never change and say how several things lie to one another. One that stands
// alone, or beside one other, is meant to be special.
std::vector<NodeIndex> candidates(const rules::Description& description) {
  constexpr std::size_t least_facts = 4;
  const rules::Dependency dependency(description);
  std::vector<NodeIndex> result;
  for (std::uint32_t r = 0; r < description.relations().size(); ++r) {
    const rules::Relation& relation = description.relations()[r];
    const bool fits = relation.keyword == rules::Keyword::none && relation.arity > 1 &&
                      dependency.phase(rules::RelationId{r}) == rules::Phase::constant;
    if (!fits || relation.clauses.size() < least_facts || is_order(description, relation)) continue;
    for (const std::uint32_t number : relation.clauses) {
      const rules::Clause& clause = description.clauses()[number];
      if (clause.body.empty()) result.push_back(clause.head.node);
    }
  }
  return result;
}

}  // namespace

Conclusion ask_symmetry(Watchlist& list) {
  const Exploration& exploration = list.exploration();
  return [&exploration](Findings&) -> std::vector<Answer> {
    const GameCore& core = *GameAccess::core(exploration.game());
    const auto whole = LaneGame::instantiate(core, false, ground::Splitting::none());
    if (!whole) return {};
    const auto ways = ways_of(**whole);
    if (!ways) return {};
    const rules::Description& description = core.program().description();
    std::vector<NodeIndex> special;  // without any one of them there would be most
    std::size_t most = *ways;
    // Each fact takes an instantiation: as much work as is hardly noticed. Not where the rules have
    // no circuit of their own, and so no end by themselves.
    constexpr std::size_t most_work = 150'000;  // facts × clauses
    const bool is_bounded = core.limits().reached == nullptr;
    const std::vector<NodeIndex> facts = candidates(description);
    if (is_bounded && *ways <= most_ways &&
        facts.size() * (*whole)->clauses().size() <= most_work) {
      for (const NodeIndex one : facts) {
        end_if_interrupted();
        const auto without = ways_without(description, one);
        if (!without || *without > most_ways || *without < 2 * *ways) continue;
        if (*without < most) continue;
        if (*without > most) special.clear();
        most = *without;
        special.push_back(one);
      }
    }
    // Where many facts would do, none of them is special.
    constexpr std::size_t most_special = 3;
    if (special.size() > most_special) special.clear();
    if (*ways == 1 && special.empty()) return {};
    std::string text =
        *ways == 1 ? "cannot be turned or mirrored"
                   : fmt::format("the same when turned, mirrored or renamed: {}", ways_text(*ways));
    std::vector<Note> places;
    const syntax::Tree& tree = description.tree();
    std::string named;
    for (const NodeIndex fact : special) {
      places.push_back(
          {tree.place(fact), fmt::format("without this it would be {}", ways_text(most))});
      named += (named.empty() ? "" : " or ") + tree.canonical_text(fact, fact + tree[fact].size);
    }
    if (!special.empty()) {
      text += fmt::format("; without {} it would be {}", named, ways_text(most));
    }
    Answer answer{"symmetry", Verdict::described, {std::move(text)}};
    answer.places = std::move(places);
    return {answer};
  };
}

}  // namespace orchard::review
