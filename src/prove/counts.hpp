// Fluents that count others: `(settled 2)` holds while two of `(mole R C)` do.
//
// A *counter* is a group of fluents that differ in one whole number, of which one holds at a time;
// a *set* is all fluents of a name, or those of them with the same value in one place. Which
// counter goes with which set, up or down, is taken from sampled positions: what those do not
// contradict is suggested, for induction to prove. With it what a full count excludes is excluded
// of the board: while a mole is still to settle there is room for it. Cost of a sample: a few
// operations for each counter, set and pair that is left.
#pragma once

#include <cstdint>
#include <map>
#include <span>
#include <vector>

#include "circuit/programs/game_network.hpp"
#include "prove/step_induction.hpp"

namespace orchard::prove {

class CountCollector {
 public:
  explicit CountCollector(const ground::GroundProgram& ground);

  void look(std::span<const std::uint64_t> rows, std::size_t count);

  // The pairs that are left, as sums that stay what they are. What holds nowhere if they do: a value
  // of a counter while another number of its set holds. Adds gates to `network`, that of the game or
  // a copy of it.
  std::vector<SumSuspect> sums(const circuit::GameNetwork& game, circuit::Network& network) const;

 private:
  struct Counter {
    std::map<std::int64_t, std::uint32_t> fluents;  // by value
    bool counts = true;      // exactly one of them held wherever it was looked
    std::int64_t value = 0;  // where it was looked last
  };
  struct Set {
    std::vector<std::uint32_t> fluents;
    std::vector<std::uint64_t> mask;
    std::int64_t size = 0;  // where it was looked last
  };
  // Size of the set and value of the counter differ by `sum` (up), or add up to it (down).
  struct Pair {
    std::size_t counter = 0;
    std::size_t set = 0;
    bool up = true;
    std::int64_t sum = 0;
    bool varies = false;  // the counter was seen with two values
    std::int64_t first = 0;
  };

  void look_at(std::span<const std::uint64_t> row);

  std::size_t words_;
  std::vector<Counter> counters_;
  std::vector<Set> sets_;
  std::vector<Pair> pairs_;
  bool begun_ = false;
};

}  // namespace orchard::prove
