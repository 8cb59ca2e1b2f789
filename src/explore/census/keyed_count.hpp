// One count of positions on the keys of a code, from the start to its end or to the first fault of
// what random games suggested.
//
// Breadth first, with several threads; what is counted does not depend on them, nor on the store.
#pragma once

#include "explore/census/storage_plan.hpp"
#include "explore/keys/census_codes.hpp"
#include "explore/stores/key_store.hpp"
#include "orchard/census.hpp"

namespace orchard::explore {

struct CountFaults {
  bool joint_moves = false;  // as of a block
  bool measure = false;
  bool no_room = false;           // for the store at all
  std::uint64_t outgrown_by = 0;  // if there are more keys than planned for: so many
  MendedRows unwritable;  // after the first of them, as many more as were met in the time till then
  bool any() const {
    return joint_moves || measure || no_room || outgrown_by > 0 || !unwritable.depths.empty();
  }
};

// Counts into `census`; goes on from `saved` if it is given. Gives the fault that ended it, if
// there was one. Fails if a checkpoint cannot be written.
template <std::size_t words>
Result<CountFaults> count_on_keys(const KeyedGame& game, KeyStore<words>& store,
                                  std::span<const std::uint64_t> start,
                                  const CensusOptions& options, Stopwatch& stopwatch,
                                  const MendedRows& mended, const StoragePlan& plan,
                                  StateReader* saved, Census& census);

// What a saved state belongs to.
std::string counted_state(const LaneGame& game, std::span<const std::uint64_t> start,
                          const CensusOptions& options);

}  // namespace orchard::explore
