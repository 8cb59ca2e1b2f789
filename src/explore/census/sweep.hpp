// A look at every reachable position of a game, many millions of them: which signals hold where.
//
// Where a measure tells depths apart and keys are short enough for a bitmap of all of them, nothing
// is kept of a position but a bit; else its coded key (see `key_store.hpp`). A line of play to one
// is found backwards from it. Everything that random games suggest is checked in every position, so
// the answers are exact; a budget that ends it leaves those about the depths before. One thread
// uses it; the game must outlive it.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "explore/keys/keyed_expander.hpp"
#include "orchard/budget.hpp"

namespace orchard::explore {

class Sweep {
 public:
  // How many positions to look at at most where they are bits, and where they are coded keys, which
  // takes several times as long; with no bits they always are coded.
  struct Most {
    std::uint64_t bits = 0;
    std::uint64_t coded = 0;
  };
  // Null if the game has no circuit for single joint moves, or nothing could be looked at. The
  // budget counts bytes of what keeps positions; in place of its positions stand `most`.
  static std::unique_ptr<Sweep> run(const LaneGame& game, std::span<const std::uint64_t> start,
                                    const Lookout& lookout, const Budget& budget, const Most& most,
                                    unsigned threads);
  virtual ~Sweep() = default;

  // Whether every position was looked at; else those of the depths that there are, all of them.
  bool complete() const { return complete_; }
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
    AnyKey key{};
  };
  const std::vector<Sighting>& sightings() const { return sightings_; }

  // The joint moves of a shortest line to where it holds first, a number for each role. Takes about
  // as long as the look itself.
  virtual std::vector<std::vector<std::uint32_t>> line_to(const Sighting& sighting) const = 0;

 protected:
  Sweep() = default;

  bool complete_ = false;
  std::uint64_t positions_ = 0;
  std::vector<Depth> depths_;
  std::vector<Sighting> sightings_;
};

}  // namespace orchard::explore
