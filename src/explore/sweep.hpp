// A look at every reachable position of a game, many millions of them: which signals hold where.
//
// Only of games in which a measure tells depths apart, with keys short enough for a bitmap of all
// of them (see `key_store.hpp`): nothing is kept of a position but a bit, and a line of play to one
// is found backwards from it. Everything that random games suggest is checked in every position, so
// the answers are exact. One thread uses it; the game must outlive it.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "explore/key_store.hpp"
#include "orchard/budget.hpp"

namespace orchard::explore {

class Sweep {
 public:
  // Null if the game is none of these, has no circuit for single joint moves, or the budget ended:
  // it counts positions, and bytes of the bitmap.
  static std::unique_ptr<Sweep> run(const LaneGame& game, std::span<const std::uint64_t> start,
                                    const Lookout& lookout, const Budget& budget, unsigned threads);

  std::uint64_t positions() const { return positions_; }
  struct Depth {
    std::uint64_t positions = 0;
    std::uint64_t ends = 0;
  };
  const std::vector<Depth>& depths() const { return depths_; }

  // Where a signal that was looked out for holds first.
  struct Sighting {
    std::uint64_t count = 0;  // positions in which it holds
    std::uint64_t depth = 0;
    std::uint64_t key = 0;
  };
  const std::vector<Sighting>& sightings() const { return sightings_; }

  // The joint moves of a shortest line to where it holds first, a number for each role. Takes about
  // as long as the look itself.
  std::vector<std::vector<std::uint32_t>> line_to(const Sighting& sighting) const;

 private:
  Sweep() = default;
  // What the code could not do, and the depth of what follows there.
  struct Broken {
    BlockFaults faults;
    std::uint64_t depth = 0;
  };
  // Looks at everything, or until it breaks; false if the budget ended.
  bool look(std::span<const std::uint64_t> start, Stopwatch& stopwatch, unsigned threads,
            Broken& broken);

  std::unique_ptr<const KeyedGame> game_;
  std::unique_ptr<KeptLayers> layers_;
  std::uint64_t positions_ = 0;
  std::vector<Depth> depths_;
  std::vector<Sighting> sightings_;
};

}  // namespace orchard::explore
