#include "compare/equality.hpp"

#include <map>
#include <optional>

#include "circuit/network/copier.hpp"
#include "explore/sampling/sampled_games.hpp"
#include "game/core.hpp"
#include "orchard/random.hpp"
#include "prove/equal_signals.hpp"
#include "prove/exclusive_groups.hpp"
#include "prove/induction.hpp"

namespace orchard::compare {

using circuit::Signal;

namespace {

// The signal of the relation: never, if no rule for it can hold; always, if one asks for nothing.
Signal signal_of(const LaneGame& lanes, const std::string& different) {
  const ground::GroundProgram& ground = lanes.ground();
  const auto relation = ground.description().find(different, 0);
  if (!relation) return circuit::never;
  const auto instances = ground.instances(*relation);
  if (instances.empty()) return circuit::never;
  if (instances.front().atom == ground::no_atom) return circuit::always;
  return lanes.network().atoms[ground::index_of(instances.front().atom)];
}

// The first positions of random games, and some from anywhere in them.
prove::PositionSample sample_of(const LaneGame& lanes, std::uint64_t seed) {
  constexpr std::size_t games = circuit::lanes;
  constexpr std::size_t most_plies = 300;
  constexpr std::size_t most_positions = 64 * 128;
  prove::PositionSample sample(lanes.network());
  explore::SampledGames sampled(lanes);
  Random random(seed);
  sampled.play(games, lanes.row(lanes.ground().initial()), random, most_plies,
               [&](std::span<const std::uint64_t> rows,
                   std::span<const explore::SampledGames::Place> places, const LaneEvaluator&) {
                 for (std::size_t at = 0; at < places.size(); ++at) {
                   if (sample.size() < most_positions && random.below(8) == 0) {
                     sample.add(rows.data() + at * lanes.words());
                   }
                 }
               });
  if (sample.size() == 0) sample.add(lanes.row(lanes.ground().initial()).data());
  return sample;
}

}  // namespace

Sameness::Sameness(const Game& product, const std::string& different, std::uint64_t seed)
    : lanes_(*GameAccess::core(product)->lanes()),
      differ_(signal_of(lanes_, different)),
      sample_(sample_of(lanes_, seed)) {}

// Fluents that agreed so far are one input of a copy, in which equal gates are one gate. Those
// whose next values are different gates there are parted, until none are: then they always agree.
bool Sameness::shows_by_shape() const {
  const circuit::GameNetwork& game = lanes_.network();
  const std::vector<bool>& start = lanes_.ground().initial();
  const std::size_t fluents = game.fluents.size();
  std::vector<std::size_t> first_alike(fluents);  // by fluent: the first that agrees with it
  std::map<std::pair<bool, std::vector<std::uint64_t>>, std::size_t> by_values;
  for (std::size_t f = 0; f < fluents; ++f) {
    first_alike[f] = by_values.try_emplace({start[f], sample_.fluents()[f]}, f).first->second;
  }
  while (true) {
    end_if_interrupted();
    circuit::Network network;
    circuit::Copier copy(game.network, network);
    std::vector<Signal> inputs(fluents, circuit::never);
    for (std::size_t f = 0; f < fluents; ++f) {
      if (first_alike[f] == f) inputs[f] = network.add_input();
      copy.put(game.fluents[f], inputs[first_alike[f]]);
    }
    for (const auto& moves : game.does) {
      for (const Signal move : moves) copy.put(move, network.add_input());
    }
    std::map<std::pair<std::size_t, Signal>, std::size_t> by_next;
    bool parted = false;
    for (std::size_t f = 0; f < fluents; ++f) {
      const std::size_t alike =
          by_next.try_emplace({first_alike[f], copy(game.next[f])}, f).first->second;
      parted = parted || alike != first_alike[f];
      first_alike[f] = alike;
    }
    // Parting goes on: fluents are compared with those that agreed with them in this round.
    if (!parted) return copy(differ_) == circuit::never;
  }
}

bool Sameness::shows_by_induction() {
  if (differ_ == circuit::never) return true;
  if (differ_ == circuit::always) return false;
  const ground::GroundProgram& ground = lanes_.ground();
  // What only looked alike because play seldom comes there is refuted by positions that a ply leads
  // to; with these in the sample signals are paired anew.
  constexpr int most_rounds = 100;
  for (int round = 0; round < most_rounds; ++round) {
    circuit::Network network = lanes_.network().network;
    std::vector<Signal> suspects = prove::suspected_differences(lanes_.network(), network, sample_);
    std::vector<Signal> shapes;
    for (const prove::FluentGroup& group :
         prove::suggested_groups(ground, lanes_.network(), network)) {
      shapes.push_back(group.several);
      if (group.one_at_start) shapes.push_back(group.none);
    }
    for (const Signal shape : prove::unseen(lanes_.network(), network, sample_, shapes)) {
      suspects.push_back(shape);
    }
    prove::Induction induction(lanes_.network(), network, ground.initial());
    const auto refuting = induction.refutations(suspects);
    if (refuting.empty()) {
      induction.suspect(suspects);
      return induction.never(differ_);
    }
    for (const std::vector<bool>& position : refuting) sample_.add(position);
  }
  return false;
}

}  // namespace orchard::compare
