// Whether two games that stand in one description are proved never to differ.
#pragma once

#include <string>

#include "circuit/network/network.hpp"
#include "game/lane_game.hpp"
#include "orchard/game.hpp"
#include "prove/equal_signals.hpp"

namespace orchard::compare {

// Looks for a proof by what positions of random games show; these are played once. The game must
// outlive it. Not shared between threads.
class Sameness {
 public:
  // `product` has a circuit; `different`: its relation that holds where the games differ.
  Sameness(const Game& product, const std::string& different, std::uint64_t seed);

  // With one input for fluents of both that agree in the sample and go on agreeing, both games are
  // the same gates. Decides most differences of writing; a few passes over the network.
  bool shows_by_shape() const;

  // By induction over the plies: signals of both that agree in the sample are paired, and paired
  // anew with what refutes that. Seconds to minutes; ends without a proof at an interruption.
  bool shows_by_induction();

 private:
  const LaneGame& lanes_;
  const circuit::Signal differ_;
  prove::PositionSample sample_;
};

}  // namespace orchard::compare
