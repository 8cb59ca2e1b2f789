#include "prove/counts.hpp"

#include <algorithm>
#include <bit>

#include "circuit/lanes/transpose.hpp"

namespace orchard::prove {

using circuit::Signal;

namespace {

constexpr std::size_t most_of_a_set = 64;
constexpr std::size_t most_sets = 200;
constexpr std::size_t most_counted = 192;  // fluents of a set, times how far they are counted

bool holds(std::span<const std::uint64_t> row, std::uint32_t fluent) {
  return (row[fluent / 64] >> (fluent % 64) & 1) != 0;
}

}  // namespace

CountCollector::CountCollector(const ground::GroundProgram& ground)
    : words_(std::max<std::size_t>(circuit::words_for(ground.fluents().size()), 1)) {
  using Name = std::pair<std::string, std::size_t>;
  // By name, place of the number, and what stands in the others; by name, place and value there.
  std::map<std::tuple<Name, std::size_t, std::vector<Term>>, Counter> counters;
  std::map<std::tuple<Name, std::size_t, std::vector<Term>>, std::vector<std::uint32_t>> sets;
  for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
    const Term term = ground.terms().term(ground.fluents()[f].term);
    const std::vector<Term> arguments = term.arguments();
    const Name name{term.name(), arguments.size()};
    for (std::size_t place = 0; place < arguments.size(); ++place) {
      sets[{name, place, {arguments[place]}}].push_back(f);
      const auto number = arguments[place].number();
      if (!number) continue;
      std::vector<Term> others = arguments;
      others.erase(others.begin() + static_cast<std::ptrdiff_t>(place));
      counters[{name, place, std::move(others)}].fluents.emplace(*number, f);
    }
    if (!arguments.empty()) sets[{name, arguments.size(), {}}].push_back(f);
  }
  for (auto& [about, counter] : counters) {
    const auto at_start = std::ranges::count_if(
        counter.fluents, [&](const auto& value) { return ground.fluents()[value.second].initial; });
    if (counter.fluents.size() < 2 || counter.fluents.size() > most_of_a_set || at_start != 1) {
      continue;
    }
    // What counts squares is no larger; and sums of larger values might not fit.
    constexpr std::int64_t largest = 1'000'000'000;
    if (counter.fluents.begin()->first < -largest || counter.fluents.rbegin()->first > largest) {
      continue;
    }
    counters_.push_back(std::move(counter));
  }
  for (auto& [about, fluents] : sets) {
    if (fluents.size() < 2 || fluents.size() > most_of_a_set) continue;
    Set& set = sets_.emplace_back();
    set.mask.assign(words_, 0);
    for (const std::uint32_t f : fluents) set.mask[f / 64] |= std::uint64_t{1} << (f % 64);
    set.fluents = std::move(fluents);
  }
  if (sets_.size() > most_sets) sets_.clear();
}

void CountCollector::look(std::span<const std::uint64_t> rows, std::size_t count) {
  for (std::size_t at = 0; at < count; ++at) look_at(rows.subspan(at * words_, words_));
}

void CountCollector::look_at(std::span<const std::uint64_t> row) {
  if (begun_ && pairs_.empty()) return;
  for (Counter& counter : counters_) {
    if (!counter.counts) continue;
    std::size_t held = 0;
    for (const auto& [value, fluent] : counter.fluents) {
      if (!holds(row, fluent)) continue;
      counter.value = value;
      ++held;
    }
    counter.counts = held == 1;
  }
  for (Set& set : sets_) {
    set.size = 0;
    for (std::size_t w = 0; w < words_; ++w) set.size += std::popcount(row[w] & set.mask[w]);
  }
  if (!begun_) {
    begun_ = true;
    for (std::size_t c = 0; c < counters_.size(); ++c) {
      for (std::size_t s = 0; s < sets_.size(); ++s) {
        const std::int64_t value = counters_[c].value;
        const std::int64_t size = sets_[s].size;
        pairs_.push_back({c, s, true, size - value, false, value});
        pairs_.push_back({c, s, false, size + value, false, value});
      }
    }
  }
  std::erase_if(pairs_, [&](Pair& pair) {
    const Counter& counter = counters_[pair.counter];
    pair.varies = pair.varies || counter.value != pair.first;
    const std::int64_t size = sets_[pair.set].size;
    return !counter.counts || (pair.up ? size - counter.value : size + counter.value) != pair.sum;
  });
}

std::vector<SumSuspect> CountCollector::sums(const circuit::GameNetwork& game,
                                             circuit::Network& network) const {
  std::vector<SumSuspect> result;
  for (const Pair& pair : pairs_) {
    if (!pair.varies) continue;
    const Counter& counter = counters_[pair.counter];
    const Set& set = sets_[pair.set];
    const auto size_at = [&](std::int64_t value) {
      return pair.up ? value + pair.sum : pair.sum - value;
    };
    std::int64_t most = 0;
    for (const auto& [value, fluent] : counter.fluents) most = std::max(most, size_at(value));
    most = std::min(most, static_cast<std::int64_t>(set.fluents.size()));
    // Counting far takes a solver long, and then it seldom comes to an end.
    if (static_cast<std::size_t>(most) * set.fluents.size() > most_counted) continue;
    // Whether so many of those looked at so far hold, from none on.
    std::vector<Signal> at_least(static_cast<std::size_t>(most) + 2, circuit::never);
    at_least[0] = circuit::always;
    for (const std::uint32_t f : set.fluents) {
      for (std::size_t n = at_least.size() - 1; n > 0; --n) {
        at_least[n] = network.either(at_least[n], network.both(at_least[n - 1], game.fluents[f]));
      }
    }
    SumSuspect& suspect = result.emplace_back();
    suspect.sum.fluents = set.fluents;
    suspect.sum.weights.assign(set.fluents.size(), 1);
    suspect.least = suspect.most = pair.sum;
    for (const auto& [value, fluent] : counter.fluents) {
      suspect.sum.fluents.push_back(fluent);
      suspect.sum.weights.push_back(pair.up ? -value : value);
      const Signal here = game.fluents[fluent];
      const std::int64_t size = size_at(value);
      if (size < 0 || size > most) {
        (size < 0 ? suspect.over : suspect.under).push_back(here);
        continue;
      }
      const auto n = static_cast<std::size_t>(size);
      suspect.over.push_back(network.both(here, at_least[n + 1]));
      suspect.under.push_back(network.both(here, !at_least[n]));
    }
  }
  return result;
}

}  // namespace orchard::prove
