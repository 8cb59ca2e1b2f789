// Blocks of keys through the programs of a keyed game. One thread each; the game must outlive it.
#pragma once

#include "explore/keys/key_sink.hpp"
#include "explore/keys/keyed_game.hpp"

namespace orchard::explore {

struct BlockFaults {
  bool joint_moves = false;  // two roles choose at once that were not seen to
  bool measure = false;      // a step that does not change the measure as it should
  // What follows from some of the block's positions and the code cannot write: rows, not all of
  // them.
  std::vector<std::vector<std::uint64_t>> rows;
  bool any() const { return joint_moves || measure || !rows.empty(); }
};

// A key of any number of words; those beyond its own are zero.
using AnyKey = Key<PositionCode::most_words>;
inline constexpr AnyKey no_key{~std::uint64_t{0}, ~std::uint64_t{0}, ~std::uint64_t{0}};

// In how many positions each signal that is looked out for held, and the least of the keys with
// which blocks in which it did first did.
struct SignalCounts {
  std::vector<std::uint64_t> held;
  std::vector<AnyKey> first;  // `no_key` if in none

  void add(const SignalCounts& other);
};

struct BlockCounts {
  std::uint64_t keys = 0;
  std::uint64_t positions = 0;  // that the keys stand for
  std::uint64_t terminal = 0;
  std::uint64_t stuck = 0;
  bool open = false;  // play goes on from one of them

  void add(const BlockCounts& other) {
    keys += other.keys;
    positions += other.positions;
    terminal += other.terminal;
    stuck += other.stuck;
    open = open || other.open;
  }
};

template <std::size_t words>
class KeyedExpander {
 public:
  explicit KeyedExpander(const KeyedGame& game);

  // Up to 512 keys at a depth; adds to the counts, and if `goes_on` what follows to `next`.
  BlockFaults expand(std::span<const Key<words>> keys, std::uint64_t depth, bool goes_on,
                     BlockCounts& counts, KeySink<words>& next);

  // What was seen by all calls.
  const SignalCounts& seen() const { return seen_; }
  void forget_seen() {
    seen_.held.assign(seen_.held.size(), 0);
    seen_.first.assign(seen_.first.size(), no_key);
  }

 private:
  std::uint64_t stood_for(const circuit::LaneBlock& lanes) const;
  std::vector<std::uint64_t> successor(const Key<words>& key, std::uint64_t depth,
                                       std::size_t step) const;
  void set_clock(std::uint64_t depth);

  struct Places {  // of the bits that a step writes
    std::array<std::vector<std::uint8_t>, words> of_word;
    Key<words> kept{};  // the bits of the key that stay
  };

  const KeyedGame& game_;
  std::vector<circuit::LaneBlock> key_lanes_;
  std::vector<circuit::LaneBlock> fluents_;
  std::vector<circuit::LaneBlock> look_reports_;
  std::vector<circuit::LaneBlock> step_reports_;
  std::vector<circuit::LaneBlock> scratch_;
  std::array<std::vector<std::uint64_t>, words> written_;  // words that a step gave, by lane
  // By renaming and word the words of the renamed keys, by lane; and where their bits belong.
  std::vector<std::array<std::vector<std::uint64_t>, words>> renamed_;
  std::array<std::vector<std::uint8_t>, words> all_places_;
  std::vector<Places> places_;     // by step
  std::vector<Key<words>> found_;  // of one step
  SignalCounts seen_;
};

}  // namespace orchard::explore
