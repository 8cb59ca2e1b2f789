#include "compare/equality.hpp"

#include "explore/sampling/sampled_games.hpp"
#include "game/core.hpp"
#include "orchard/random.hpp"
#include "prove/equal_signals.hpp"
#include "prove/exclusive_groups.hpp"
#include "prove/induction.hpp"

namespace orchard::compare {

using circuit::Signal;

bool is_proved_the_same(const Game& product, const std::string& different, std::uint64_t seed) {
  const LaneGame& lanes = *GameAccess::core(product)->lanes();
  const ground::GroundProgram& ground = lanes.ground();
  const auto relation = ground.description().find(different, 0);
  if (!relation) return true;
  const auto instances = ground.instances(*relation);
  if (instances.empty()) return true;  // no rule for it can ever hold
  if (instances.front().atom == ground::no_atom) return false;
  const Signal differ = lanes.network().atoms[ground::index_of(instances.front().atom)];
  if (differ == circuit::never) return true;
  // The first positions of random games, and some from anywhere in them.
  constexpr std::size_t games = circuit::lanes;
  constexpr std::size_t most_plies = 300;
  constexpr std::size_t most_positions = 64 * 128;
  prove::PositionSample sample(lanes.network());
  explore::SampledGames sampled(lanes);
  Random random(seed);
  sampled.play(games, lanes.row(ground.initial()), random, most_plies,
               [&](std::span<const std::uint64_t> rows,
                   std::span<const explore::SampledGames::Place> places, const LaneEvaluator&) {
                 for (std::size_t at = 0; at < places.size(); ++at) {
                   if (sample.size() < most_positions && random.below(8) == 0) {
                     sample.add(rows.data() + at * lanes.words());
                   }
                 }
               });
  if (sample.size() == 0) sample.add(lanes.row(ground.initial()).data());
  // What only looked alike because play seldom comes there is refuted by positions that a ply leads
  // to; with these in the sample signals are paired anew.
  constexpr int most_rounds = 100;
  for (int round = 0; round < most_rounds; ++round) {
    circuit::Network network = lanes.network().network;
    std::vector<Signal> suspects = prove::suspected_differences(lanes.network(), network, sample);
    std::vector<Signal> shapes;
    for (const prove::FluentGroup& group :
         prove::suggested_groups(ground, lanes.network(), network)) {
      shapes.push_back(group.several);
      if (group.one_at_start) shapes.push_back(group.none);
    }
    for (const Signal shape : prove::unseen(lanes.network(), network, sample, shapes)) {
      suspects.push_back(shape);
    }
    prove::Induction induction(lanes.network(), network, ground.initial());
    const auto refuting = induction.refutations(suspects);
    if (refuting.empty()) {
      induction.suspect(suspects);
      return induction.never(differ);
    }
    for (const std::vector<bool>& position : refuting) sample.add(position);
  }
  return false;
}

}  // namespace orchard::compare
