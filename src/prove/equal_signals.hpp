// Signals that may always agree: the same, or contrary, in every position of a sample.
//
// What agrees by chance in the sample is for `Induction` to drop. Source: van Eijk, "Sequential
// equivalence checking based on structural similarities" (2000).
#pragma once

#include <cstdint>
#include <vector>

#include "circuit/programs/game_network.hpp"

namespace orchard::prove {

// The positions of a sample, 64 to a word.
class PositionSample {
 public:
  explicit PositionSample(const circuit::GameNetwork& game) : game_(game) {}

  // A row of bits, one for each fluent.
  void add(const std::uint64_t* row);
  void add(const std::vector<bool>& fluents);
  std::size_t size() const { return size_; }
  // By fluent, the words of its bits.
  const std::vector<std::vector<std::uint64_t>>& fluents() const { return fluents_; }

 private:
  const circuit::GameNetwork& game_;
  std::vector<std::vector<std::uint64_t>> fluents_;
  std::size_t size_ = 0;
};

// For every two signals of positions alone that agree in the sample, a signal that holds where they
// do not; signals that are constant there stand for themselves. Each is paired with the first that
// it agrees with. Adds gates to `network`, that of the game or a copy of it. O(gates × positions /
// 64).
std::vector<circuit::Signal> suspected_differences(const circuit::GameNetwork& game,
                                                   circuit::Network& network,
                                                   const PositionSample& sample);

// Those of some signals of positions alone that hold nowhere in the sample. The same cost.
std::vector<circuit::Signal> unseen(const circuit::GameNetwork& game,
                                    const circuit::Network& network, const PositionSample& sample,
                                    const std::vector<circuit::Signal>& signals);

}  // namespace orchard::prove
