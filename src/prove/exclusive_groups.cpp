#include "prove/exclusive_groups.hpp"

#include <algorithm>
#include <map>
#include <set>

namespace orchard::prove {

using circuit::Signal;
using Fluents = std::vector<std::uint32_t>;

std::vector<FluentGroup> suggested_groups(const ground::GroundProgram& ground,
                                          const circuit::GameNetwork& game,
                                          circuit::Network& network) {
  constexpr std::size_t most_places = 4;
  // By name, value places and key.
  std::map<std::tuple<std::string, std::size_t, std::uint32_t, std::vector<Term>>, Fluents>
      gathered;
  Fluents alone;  // without arguments, and true at the start
  for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
    const Term term = ground.terms().term(ground.fluents()[f].term);
    const std::vector<Term> arguments = term.arguments();
    if (arguments.empty() && ground.fluents()[f].initial) alone.push_back(f);
    const std::size_t places = std::min(arguments.size(), most_places);
    for (std::uint32_t values = 1; values < 1u << places; ++values) {
      std::vector<Term> key;
      for (std::size_t p = 0; p < arguments.size(); ++p) {
        if (p >= places || (values >> p & 1) == 0) key.push_back(arguments[p]);
      }
      gathered[{term.name(), arguments.size(), values, std::move(key)}].push_back(f);
    }
  }
  std::vector<FluentGroup> result;
  std::set<Fluents> known;
  const auto add = [&](const std::string& name, Fluents fluents) {
    if (fluents.size() < 2 || !known.insert(fluents).second) return;
    const auto at_start = std::ranges::count_if(
        fluents, [&](std::uint32_t f) { return ground.fluents()[f].initial; });
    if (at_start > 1) return;
    std::vector<Signal> signals;
    for (const std::uint32_t f : fluents) signals.push_back(game.fluents[f]);
    const Signal several = network.several(signals);
    result.push_back(
        {name, std::move(fluents), several, !network.any(std::move(signals)), at_start == 1});
  };
  constexpr std::size_t most_alone = 4;
  if (alone.size() > most_alone) alone.clear();
  for (const auto& [about, fluents] : gathered) {
    add(std::get<0>(about), fluents);
    for (const std::uint32_t f : alone) {
      Fluents with = fluents;
      with.push_back(f);
      add(std::get<0>(about), std::move(with));
    }
  }
  return result;
}

namespace {

// Pairs of fluents that may have to do with one another: all, if there are few of names with few;
// else those with the same arguments, and those of a fluent without arguments with any other.
std::vector<std::pair<std::uint32_t, std::uint32_t>> likely_pairs(
    const ground::GroundProgram& ground) {
  constexpr std::size_t most_of_a_name = 16;
  constexpr std::size_t most_fluents = 64;
  constexpr std::size_t most_with_same = 2'000;  // pairs
  std::map<std::pair<std::string, std::size_t>, Fluents> by_name;
  std::map<std::vector<Term>, Fluents> by_arguments;
  for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
    const Term term = ground.terms().term(ground.fluents()[f].term);
    by_name[{term.name(), term.arguments().size()}].push_back(f);
    by_arguments[term.arguments()].push_back(f);
  }
  Fluents few;
  for (const auto& [name, fluents] : by_name) {
    if (fluents.size() <= most_of_a_name) few.insert(few.end(), fluents.begin(), fluents.end());
  }
  std::vector<std::pair<std::uint32_t, std::uint32_t>> result;
  const auto add_all_of = [&](const Fluents& fluents) {
    for (std::size_t i = 0; i < fluents.size(); ++i) {
      for (std::size_t j = 0; j < i; ++j) result.emplace_back(fluents[i], fluents[j]);
    }
  };
  if (few.size() <= most_fluents) {
    add_all_of(few);
    return result;
  }
  for (const auto& [arguments, fluents] : by_arguments) {
    add_all_of(fluents);
    if (!arguments.empty()) continue;
    for (const std::uint32_t alone : fluents) {
      for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
        if (!std::ranges::binary_search(fluents, f)) result.emplace_back(alone, f);
      }
    }
  }
  if (result.size() > most_with_same) result.clear();
  return result;
}

}  // namespace

std::vector<Signal> suggested_pairs(const ground::GroundProgram& ground,
                                    const circuit::GameNetwork& game, circuit::Network& network) {
  constexpr std::uint32_t most_gates = 30'000;  // where questions cost much, these are too many
  std::vector<Signal> result;
  if (network.size() > most_gates) return result;
  for (const auto& [first, second] : likely_pairs(ground)) {
    for (const bool negate_first : {false, true}) {
      for (const bool negate_second : {false, true}) {
        result.push_back(
            network.both(game.fluents[first] ^ negate_first, game.fluents[second] ^ negate_second));
      }
    }
  }
  return result;
}

}  // namespace orchard::prove
