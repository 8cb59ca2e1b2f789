#include "review/inquiry/value_groups.hpp"

#include <algorithm>
#include <functional>
#include <set>

#include "game/random_line.hpp"

namespace orchard::review {

using rules::Keyword;

namespace {

// The instances of a relation that does not depend on the position.
std::vector<std::vector<Term>> instances(const Exploration& exploration, Keyword keyword) {
  const GameCore& core = *GameAccess::core(exploration.game());
  const auto relation = core.program().description().find(keyword);
  if (!relation) return {};
  GameCore::Lease evaluator(core, true);
  evaluator->set_position(GameAccess::state(exploration.game().initial()).fluents());
  const logic::Table& table = evaluator->reference().instances(*relation);
  std::vector<std::vector<Term>> result;
  for (std::uint32_t r = 0; r < table.rows(); ++r) {
    std::vector<Term>& row = result.emplace_back();
    for (const TermId term : std::span(table.row(r), table.arity())) {
      row.push_back(core.terms().term(term));
    }
  }
  return result;
}

// Whether some rule keeps all fluents of a name for ever, whatever happens: they are a list that
// grows.
bool is_kept_for_ever(const rules::Description& description, const std::string& name,
                      std::size_t arity) {
  const auto same = [](const rules::PatternSymbol& a, const rules::PatternSymbol& b) {
    return a.kind == b.kind && a.value == b.value && a.arity == b.arity;
  };
  return std::ranges::any_of(description.clauses(), [&](const rules::Clause& clause) {
    if (description.relation(clause.head.relation).keyword != rules::Keyword::next ||
        clause.body.size() != 1 || clause.body[0].kind != rules::Literal::Kind::positive) {
      return false;
    }
    const rules::Atom& kept = clause.body[0].atom;
    const rules::PatternSymbol& fluent = clause.head.arguments.front();
    return description.relation(kept.relation).keyword == rules::Keyword::true_ &&
           fluent.kind == rules::PatternSymbol::Kind::function && fluent.arity == arity &&
           description.terms().name(fluent.symbol()) == name &&
           std::ranges::equal(clause.head.arguments, kept.arguments, same);
  });
}

// The positions of a few random games.
void each_random_position(const Game& game,
                          const std::function<void(const std::vector<Term>& fluents)>& visit) {
  const GameCore& core = *GameAccess::core(game);
  constexpr int games = 20;
  constexpr std::uint64_t plies = 100;
  Random random(1);
  GameCore::Lease evaluator(core);
  try {
    for (int number = 0; number < games; ++number) {
      random_line(*evaluator, core.program().initial(), random, plies, [&](const LinePosition& at) {
        std::vector<Term> fluents;
        for (const TermId id : *at.fluents) fluents.push_back(core.terms().term(id));
        visit(fluents);
        return true;
      });
    }
  } catch (const logic::LimitExceeded&) {
    // What was met until then has to do.
  }
}

// At the start (stands ada 2) (stands bea 4) may say that a player has one hour, or that an hour
// has one player. Of several readings of a fluent those that a few random games contradict were not
// meant, if one is left that they do not.
void drop_other_readings(const Game& game, std::vector<ValueGroup>& groups) {
  const auto same_name = [](const ValueGroup& a, const ValueGroup& b) {
    return a.name == b.name && a.arity == b.arity;
  };
  const auto readings = [&](const ValueGroup& group) {
    return std::ranges::count_if(groups,
                                 [&](const ValueGroup& one) { return same_name(one, group); });
  };
  std::vector<bool> contradicted(groups.size(), false);
  const auto look = [&](const std::vector<Term>& fluents) {
    for (std::size_t g = 0; g < groups.size(); ++g) {
      if (contradicted[g] || readings(groups[g]) < 2) continue;
      std::set<std::vector<Term>> keys;
      for (const Term& fluent : fluents) {
        if (fluent.name() != groups[g].name || fluent.arity() != groups[g].arity) continue;
        std::vector<Term> key = fluent.arguments();
        key.erase(key.begin() + static_cast<std::ptrdiff_t>(groups[g].value_place));
        if (!keys.insert(std::move(key)).second) contradicted[g] = true;
      }
    }
  };
  if (std::ranges::all_of(groups, [&](const ValueGroup& group) { return readings(group) < 2; })) {
    return;
  }
  each_random_position(game, look);
  std::vector<bool> drop(groups.size(), false);
  for (std::size_t g = 0; g < groups.size(); ++g) {
    for (std::size_t other = 0; other < groups.size(); ++other) {
      const bool better = same_name(groups[g], groups[other]) && !contradicted[other];
      drop[g] = drop[g] || (contradicted[g] && better);
    }
  }
  std::size_t g = 0;
  std::erase_if(groups, [&](const ValueGroup&) { return drop[g++]; });
}

// (green s1) (green s2) (limp s3): places with a fluent for each content, of which one happens to
// be at one place at the start. That is no value of `limp`: in random games it is at several places
// at once, and never where there is `green`, which is at several from the start.
void drop_contents(const Game& game, std::vector<ValueGroup>& groups) {
  const auto is_single = [](const ValueGroup& group) { return group.arity == 1; };
  // Of each fluent with one argument what that is in a position.
  using Places = std::map<std::string, std::set<Term>>;
  const auto places_in = [](const std::vector<Term>& fluents) {
    Places result;
    for (const Term& fluent : fluents) {
      if (fluent.arity() == 1) result[fluent.name()].insert(fluent.arguments()[0]);
    }
    return result;
  };
  const Places at_start = places_in(game.initial().fluents());
  const auto begins_with_several = [](const auto& named) { return named.second.size() > 1; };
  if (std::ranges::none_of(groups, is_single) ||
      std::ranges::none_of(at_start, begins_with_several)) {
    return;
  }
  std::set<std::string> several;  // at a time
  std::set<std::pair<std::string, std::string>> meet;
  Places ever;
  each_random_position(game, [&](const std::vector<Term>& fluents) {
    const Places places = places_in(fluents);
    for (const auto& [name, of_name] : places) {
      if (of_name.size() > 1) several.insert(name);
      ever[name].insert(of_name.begin(), of_name.end());
      for (const auto& [other, of_other] : places) {
        const bool both = std::ranges::any_of(
            of_name, [&others = of_other](const Term& place) { return others.contains(place); });
        if (both) meet.emplace(name, other);
      }
    }
  });
  std::erase_if(groups, [&](const ValueGroup& group) {
    if (!is_single(group) || !several.contains(group.name)) return false;
    return std::ranges::any_of(at_start, [&](const auto& other) {
      const bool apart = begins_with_several(other) && !meet.contains({group.name, other.first});
      return apart && std::ranges::count_if(ever[group.name], [&](const Term& place) {
                        return ever[other.first].contains(place);
                      }) > 1;
    });
  });
}

}  // namespace

std::vector<Term> declared_fluents(const Exploration& exploration) {
  std::vector<Term> result;
  for (auto& row : instances(exploration, Keyword::base)) result.push_back(std::move(row[0]));
  return result;
}

std::vector<std::vector<Term>> declared_moves(const Exploration& exploration) {
  std::vector<std::vector<Term>> result(exploration.game().roles().size());
  for (auto& row : instances(exploration, Keyword::input)) {
    if (const auto role = exploration.game().role(row[0].to_string())) {
      result[role->index()].push_back(std::move(row[1]));
    }
  }
  return result;
}

std::vector<ValueGroup> value_groups(const Exploration& exploration) {
  const ground::GroundProgram& ground = exploration.ground();
  struct Gathered {
    std::map<std::vector<Term>, std::vector<std::uint32_t>> keys;
    std::map<std::vector<Term>, std::size_t> at_start;
    std::set<Term> values_at_start;
    std::set<Term> values;
  };
  std::map<std::tuple<std::string, std::size_t, std::size_t>, Gathered> gathered;
  const auto each_place = [&](const Term& term, auto&& visit) {
    const std::vector<Term> arguments = term.arguments();
    for (std::size_t place = 0; place < arguments.size(); ++place) {
      std::vector<Term> key = arguments;
      key.erase(key.begin() + static_cast<std::ptrdiff_t>(place));
      visit(gathered[{term.name(), arguments.size(), place}], std::move(key), arguments[place]);
    }
  };
  for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
    const auto& fluent = ground.fluents()[f];
    each_place(ground.terms().term(fluent.term),
               [&](Gathered& group, std::vector<Term> key, const Term& value) {
                 if (fluent.initial) {
                   ++group.at_start[key];
                   group.values_at_start.insert(value);
                 }
                 group.values.insert(value);
                 group.keys[std::move(key)].push_back(f);
               });
  }
  for (const Term& declared : declared_fluents(exploration)) {
    each_place(declared, [&](Gathered& group, std::vector<Term> key, const Term&) {
      group.keys.try_emplace(std::move(key));
    });
  }
  std::vector<ValueGroup> result;
  for (auto& [name, group] : gathered) {
    bool single = !group.at_start.empty();
    for (const auto& [key, count] : group.at_start) single = single && count == 1;
    if (!single) continue;
    // Bare squares: many keys have the same value, and that is no number.
    const bool filled = group.at_start.size() > 2 && group.values_at_start.size() == 1 &&
                        group.at_start.size() * 4 >= group.keys.size() &&
                        !group.values_at_start.begin()->number();
    // Pieces, each on a place of its own among more places: one may be taken, and then has none.
    const bool pieces = group.keys.size() > 1 && group.at_start.size() == group.keys.size() &&
                        group.values_at_start.size() == group.keys.size() &&
                        group.values.size() > group.keys.size();
    const bool total = filled || (group.at_start.size() == group.keys.size() && !pieces);
    // One key of many with a value is a list that has just begun.
    if (!total && group.at_start.size() * 2 < group.keys.size()) continue;
    const auto& [functor, arity, place] = name;
    const rules::Description& description =
        GameAccess::core(exploration.game())->program().description();
    if (group.keys.size() == 1 && is_kept_for_ever(description, functor, arity)) continue;
    result.push_back({functor, arity, place, total, std::move(group.keys)});
  }
  drop_other_readings(exploration.game(), result);
  drop_contents(exploration.game(), result);
  return result;
}

}  // namespace orchard::review
