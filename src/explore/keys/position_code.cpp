#include "explore/keys/position_code.hpp"

#include <algorithm>
#include <bit>
#include <map>

namespace orchard::explore {

namespace {

template <class Visit>
void each_bit(std::span<const std::uint64_t> row, Visit&& visit) {
  for (std::size_t w = 0; w < row.size(); ++w) {
    for (std::uint64_t word = row[w]; word != 0; word &= word - 1) {
      visit(static_cast<std::uint32_t>(w * 64) +
            static_cast<std::uint32_t>(std::countr_zero(word)));
    }
  }
}

}  // namespace

std::optional<std::uint64_t> PositionCode::Group::number(std::span<const std::uint64_t> row) const {
  std::size_t held = 0;
  for (const std::uint32_t fluent : fluents) held += holds(row, fluent) ? 1 : 0;
  const auto found = std::ranges::find_if(patterns, [&](const circuit::Combination& places) {
    return places.size() == held && std::ranges::all_of(places, [&](std::uint16_t place) {
             return holds(row, fluents[place]);
           });
  });
  if (found == patterns.end()) return std::nullopt;
  return static_cast<std::uint64_t>(found - patterns.begin());
}

std::optional<std::vector<std::uint64_t>> PositionCode::key(std::span<const std::uint64_t> row,
                                                            std::uint64_t depth) const {
  const auto of_row = [&](std::uint32_t fluent) { return holds(row, fluent); };
  if (!std::ranges::all_of(always, of_row)) return std::nullopt;
  if (std::ranges::any_of(never, of_row)) return std::nullopt;
  for (std::size_t place = 0; place < clock.fluents.size(); ++place) {
    if (of_row(clock.fluents[place]) != clock.holds(place, depth)) return std::nullopt;
  }
  std::vector<std::uint64_t> result(words(), 0);
  for (const Group& group : groups) {
    const auto number = group.number(row);
    if (!number) return std::nullopt;
    for (std::uint32_t b = 0; b < group.bits; ++b) {
      const std::uint32_t at = group.first_bit + b;
      result[at / 64] |= (*number >> b & 1) << (at % 64);
    }
  }
  return result;
}

std::vector<std::uint64_t> PositionCode::row(std::span<const std::uint64_t> key,
                                             std::size_t row_words, std::uint64_t depth) const {
  std::vector<std::uint64_t> result(row_words, 0);
  const auto put = [&](std::uint32_t fluent) {
    result[fluent / 64] |= std::uint64_t{1} << (fluent % 64);
  };
  for (const std::uint32_t fluent : always) put(fluent);
  for (std::size_t place = 0; place < clock.fluents.size(); ++place) {
    if (clock.holds(place, depth)) put(clock.fluents[place]);
  }
  for (const Group& group : groups) {
    std::uint64_t number = 0;
    for (std::uint32_t b = 0; b < group.bits; ++b) {
      number |= (holds(key, group.first_bit + b) ? std::uint64_t{1} : 0) << b;
    }
    for (const std::uint16_t place : group.patterns[number]) put(group.fluents[place]);
  }
  return result;
}

void PositionCode::number_bits() {
  bits = 0;
  for (Group& group : groups) {
    group.first_bit = bits;
    group.bits = static_cast<std::uint32_t>(std::bit_width(group.patterns.size() - 1));
    bits += group.bits;
  }
}

CodeFinder::CodeFinder(const ground::GroundProgram& ground)
    : fluents_(ground.fluents().size()),
      candidates_of_(fluents_),
      seen_(fluents_, 0),
      functor_(fluents_, 0) {
  std::map<std::pair<rules::SymbolId, std::uint32_t>, std::size_t> functors;
  std::map<std::vector<std::uint32_t>, std::uint32_t> known;  // functor, place, other arguments
  for (std::uint32_t f = 0; f < fluents_; ++f) {
    const auto& entry = ground.terms()[ground.fluents()[f].term];
    functor_[f] = functors.try_emplace({entry.symbol, entry.arity}, functors.size()).first->second;
    for (std::uint32_t place = 0; place < entry.arity; ++place) {
      std::vector<std::uint32_t> name{static_cast<std::uint32_t>(functor_[f]), place};
      for (std::uint32_t i = 0; i < entry.arity; ++i) {
        if (i != place) name.push_back(static_cast<std::uint32_t>(entry.arguments[i]));
      }
      const auto [candidate, is_new] =
          known.try_emplace(std::move(name), static_cast<std::uint32_t>(candidates_.size()));
      if (is_new) candidates_.push_back({{}, functor_[f], place, 0, true, 0});
      candidates_[candidate->second].fluents.push_back(f);
      candidates_of_[f].push_back(candidate->second);
    }
  }
  functors_ = functors.size();
}

void CodeFinder::observe(std::span<const std::uint64_t> row) {
  ++rows_;
  each_bit(row, [&](std::uint32_t fluent) {
    ++seen_[fluent];
    for (const std::uint32_t c : candidates_of_[fluent]) {
      Candidate& candidate = candidates_[c];
      if (candidate.last_row == rows_) candidate.exclusive = false;
      if (candidate.last_row != rows_) ++candidate.held;
      candidate.last_row = rows_;
    }
  });
}

PositionCode::Group CodeFinder::group_of(const Candidate& candidate) const {
  PositionCode::Group group;
  if (candidate.held < rows_) group.patterns.emplace_back();
  for (const std::uint32_t fluent : candidate.fluents) {
    if (seen_[fluent] == 0) continue;
    group.patterns.push_back({static_cast<std::uint16_t>(group.fluents.size())});
    group.fluents.push_back(fluent);
  }
  return group;
}

// A fluent by itself takes a bit, or none if it always holds.
std::uint32_t CodeFinder::bits_of(const Candidate& candidate) const {
  if (candidate.exclusive) {
    const std::size_t patterns = group_of(candidate).patterns.size();
    return static_cast<std::uint32_t>(
        std::bit_width(patterns - std::min<std::size_t>(patterns, 1)));
  }
  std::uint32_t result = 0;
  for (const std::uint32_t fluent : candidate.fluents) {
    result += seen_[fluent] > 0 && seen_[fluent] < rows_ ? 1 : 0;
  }
  return result;
}

PositionCode CodeFinder::code() const {
  // For each functor the place whose values take the fewest bits.
  std::vector<std::map<std::size_t, std::uint32_t>> bits(functors_);
  for (const Candidate& candidate : candidates_) {
    bits[candidate.functor][candidate.place] += bits_of(candidate);
  }
  std::vector<std::size_t> best(functors_, 0);
  for (std::size_t functor = 0; functor < functors_; ++functor) {
    const auto least = std::ranges::min_element(
        bits[functor], {}, [](const auto& place_and_bits) { return place_and_bits.second; });
    if (least != bits[functor].end()) best[functor] = least->first;
  }
  PositionCode result;
  std::vector<bool> grouped(fluents_, false);
  for (const Candidate& candidate : candidates_) {
    if (candidate.place != best[candidate.functor] || !candidate.exclusive) continue;
    PositionCode::Group group = group_of(candidate);
    if (group.patterns.size() < 2) continue;  // one that always holds, or none ever
    for (const std::uint32_t fluent : group.fluents) grouped[fluent] = true;
    result.groups.push_back(std::move(group));
  }
  for (std::uint32_t fluent = 0; fluent < fluents_; ++fluent) {
    if (seen_[fluent] == 0) {
      result.never.push_back(fluent);
    } else if (seen_[fluent] == rows_) {
      result.always.push_back(fluent);
    } else if (!grouped[fluent]) {
      result.groups.push_back({{fluent}, {{}, {0}}, 0, 0});
    }
  }
  result.number_bits();
  return result;
}

}  // namespace orchard::explore
