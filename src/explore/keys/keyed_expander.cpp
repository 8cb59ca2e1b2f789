#include "explore/keys/keyed_expander.hpp"

#include <algorithm>
#include <bit>

#include "circuit/lanes/lane_kernels.hpp"
#include "circuit/lanes/transpose.hpp"
#include "game/lane_evaluator.hpp"

namespace orchard::explore {

using circuit::LaneBlock;

namespace {

// Rows of so many words are read into as many blocks at least.
std::size_t key_blocks(const PositionCode& code, std::size_t words) {
  return std::max<std::size_t>(code.bits, words * 64 - 63);
}

}  // namespace

void SignalCounts::add(const SignalCounts& other) {
  held.resize(other.held.size(), 0);
  first.resize(other.first.size(), no_key);
  for (std::size_t s = 0; s < other.held.size(); ++s) {
    held[s] += other.held[s];
    first[s] = std::min(first[s], other.first[s]);
  }
}

template <std::size_t words>
KeyedExpander<words>::KeyedExpander(const KeyedGame& game)
    : game_(game),
      key_lanes_(key_blocks(game.code(), words) + game.code().clock.fluents.size()),
      fluents_(game.game().ground().fluents().size() + game.code().clock.fluents.size()),
      look_reports_(KeyedGame::first_same_report + game.same_bits_ + game.signals_ +
                    game.steps_.size()),
      renamed_(game.renamings().size()) {
  std::size_t reports = KeyedGame::first_bit_report;
  std::size_t scratch = game.look_->scratch_blocks();
  for (const KeyedGame::Step& step : game.steps_) {
    reports = std::max(reports, KeyedGame::first_bit_report + step.bits.size() +
                                    game.renamings().size() * game.code().bits);
    Places& places = places_.emplace_back();
    places.kept.fill(~std::uint64_t{0});
    for (const std::uint32_t bit : step.bits) {
      places.of_word[bit / 64].push_back(static_cast<std::uint8_t>(bit % 64));
      places.kept[bit / 64] &= ~(std::uint64_t{1} << (bit % 64));
    }
    scratch = std::max(scratch, step.executor->scratch_blocks());
  }
  seen_.held.resize(game.signals_);
  seen_.first.resize(game.signals_);
  forget_seen();
  step_reports_.resize(reports);
  found_.resize(circuit::lanes);
  scratch_.resize(scratch);
  for (auto& word : written_) word.assign(circuit::lanes, 0);
  for (auto& key : renamed_) key = written_;
  for (std::uint32_t bit = 0; bit < game.code().bits; ++bit) {
    all_places_[bit / 64].push_back(static_cast<std::uint8_t>(bit % 64));
  }
}

// How many positions the keys of these lanes stand for: for each as many as there are renamings,
// the identity among them, over those that leave it as it is.
template <std::size_t words>
std::uint64_t KeyedExpander<words>::stood_for(const LaneBlock& lanes) const {
  const std::size_t order = game_.renamings().size() + 1;
  std::uint64_t result = 0;
  for (std::size_t same = 1; same <= order; ++same) {
    if (order % same != 0) continue;
    LaneBlock here = lanes;
    for (std::size_t b = 0; b < game_.same_bits_; ++b) {
      const LaneBlock& digit = look_reports_[KeyedGame::first_same_report + b];
      const bool one = ((same - 1) >> b & 1) != 0;
      for (std::size_t w = 0; w < here.words.size(); ++w) {
        here.words[w] &= one ? digit.words[w] : ~digit.words[w];
      }
    }
    result += circuit::count_lanes(here) * (order / same);
  }
  return result;
}

// What the code cannot write, by the step program of a plain evaluator.
template <std::size_t words>
std::vector<std::uint64_t> KeyedExpander<words>::successor(const Key<words>& key,
                                                           std::uint64_t depth,
                                                           std::size_t step) const {
  LaneEvaluator evaluator(game_.game());
  evaluator.load(game_.code().row(key, evaluator.words(), depth), 1);
  evaluator.set_joint(0, game_.steps_[step].joint);
  evaluator.step();
  const auto row = evaluator.next(0);
  return {row.begin(), row.end()};
}

// What the clock says of this depth, and of the next one.
template <std::size_t words>
void KeyedExpander<words>::set_clock(std::uint64_t depth) {
  const PositionCode::Clock& clock = game_.code().clock;
  const std::size_t fluents = game_.game().ground().fluents().size();
  for (std::size_t place = 0; place < clock.fluents.size(); ++place) {
    const auto all = [](bool one) { return one ? ~std::uint64_t{0} : 0; };
    key_lanes_[game_.code().bits + place].words.fill(all(clock.holds(place, depth)));
    fluents_[fluents + place].words.fill(all(clock.holds(place, depth + 1)));
  }
}

template <std::size_t words>
BlockFaults KeyedExpander<words>::expand(std::span<const Key<words>> keys, std::uint64_t depth,
                                         bool goes_on, BlockCounts& counts, KeySink<words>& next) {
  constexpr std::size_t most_rows = 64;
  BlockFaults faults;
  const LaneBlock filled = circuit::first_lanes(keys.size());
  circuit::rows_to_lanes({keys.front().data(), keys.size() * words}, keys.size(),
                         std::span(key_lanes_).first(key_blocks(game_.code(), words)));
  set_clock(depth);
  game_.look_->run(
      {key_lanes_.data(), nullptr, fluents_.data(), look_reports_.data(), scratch_.data()});
  const auto of = [&](std::size_t report) {
    LaneBlock result = filled;
    for (std::size_t w = 0; w < filled.words.size(); ++w) {
      result.words[w] &= look_reports_[report].words[w];
    }
    return result;
  };
  const LaneBlock terminal = of(KeyedGame::terminal_report);
  const LaneBlock stuck = of(KeyedGame::stuck_report);
  counts.keys += keys.size();
  counts.positions += stood_for(filled);
  counts.terminal += stood_for(terminal);
  counts.stuck += stood_for(stuck);
  counts.open =
      counts.open || circuit::count_lanes(terminal) + circuit::count_lanes(stuck) < keys.size();
  const std::size_t first_signal = KeyedGame::first_same_report + game_.same_bits_;
  for (std::size_t s = 0; s < game_.signals_; ++s) {
    const LaneBlock held = of(first_signal + s);
    if (!circuit::any_lane(held)) continue;
    seen_.held[s] += circuit::count_lanes(held);
    std::size_t w = 0;
    while (held.words[w] == 0) ++w;
    const std::size_t lane = w * 64 + static_cast<std::size_t>(std::countr_zero(held.words[w]));
    AnyKey first{};
    std::ranges::copy(keys[lane], first.begin());
    seen_.first[s] = std::min(seen_.first[s], first);
  }
  faults.joint_moves = circuit::any_lane(of(KeyedGame::more_report));
  if (!goes_on || faults.any()) return faults;
  const std::size_t first_step_report = first_signal + game_.signals_;
  for (std::size_t s = 0; s < game_.steps_.size(); ++s) {
    LaneBlock made = look_reports_[first_step_report + s];
    std::uint64_t some = 0;
    for (std::size_t w = 0; w < made.words.size(); ++w) some |= made.words[w] &= filled.words[w];
    if (some == 0) continue;
    const KeyedGame::Step& step = game_.steps_[s];
    step.executor->run({fluents_.data(), nullptr, nullptr, step_reports_.data(), scratch_.data()});
    const Places& places = places_[s];
    std::size_t first = KeyedGame::first_bit_report;
    for (std::size_t w = 0; w < words; ++w) {
      const std::size_t count = places.of_word[w].size();
      circuit::lanes_to_places(std::span<const LaneBlock>(step_reports_).subspan(first, count),
                               places.of_word[w], written_[w]);
      first += count;
    }
    for (auto& renamed : renamed_) {
      for (std::size_t w = 0; w < words; ++w) {
        const std::size_t count = all_places_[w].size();
        circuit::lanes_to_places(std::span<const LaneBlock>(step_reports_).subspan(first, count),
                                 all_places_[w], renamed[w]);
        first += count;
      }
    }
    Key<words>* found = found_.data();
    for (std::size_t w = 0; w < made.words.size(); ++w) {
      const auto faulty = [&](std::size_t report) {
        return step_reports_[report].words[w] & made.words[w];
      };
      faults.measure = faulty(KeyedGame::mismeasured_report) != 0;
      if (faults.measure) return faults;
      for (std::uint64_t unwritable = faulty(KeyedGame::unwritable_report); unwritable != 0;
           unwritable &= unwritable - 1) {
        if (faults.rows.size() == most_rows) return faults;
        const std::size_t lane = w * 64 + static_cast<std::size_t>(std::countr_zero(unwritable));
        faults.rows.push_back(successor(keys[lane], depth, s));
      }
      for (std::uint64_t word = made.words[w]; word != 0; word &= word - 1) {
        const std::size_t lane = w * 64 + static_cast<std::size_t>(std::countr_zero(word));
        Key<words> key = keys[lane];
        for (std::size_t k = 0; k < words; ++k) {
          key[k] = (key[k] & places.kept[k]) | written_[k][lane];
        }
        for (const auto& renamed : renamed_) {
          Key<words> other;
          for (std::size_t k = 0; k < words; ++k) other[k] = renamed[k][lane];
          key = std::min(key, other);
        }
        *found++ = key;
      }
    }
    next.add({found_.data(), found});
  }
  return faults;
}

template class KeyedExpander<1>;
template class KeyedExpander<2>;
template class KeyedExpander<3>;
static_assert(PositionCode::most_words == 3);

}  // namespace orchard::explore
