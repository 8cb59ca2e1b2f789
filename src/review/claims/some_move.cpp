#include "review/claims/some_move.hpp"

#include "explore/sampling/grouped_joints.hpp"

namespace orchard::review {

std::optional<SomeMove> SomeMove::of(Watchlist& list) {
  constexpr std::size_t most_joints = 512;
  constexpr std::size_t most_gates = 10'000'000;  // of all copies
  const circuit::GameNetwork& game = list.game();
  const circuit::ChoiceGroups& groups = list.exploration().lanes().choice_groups();
  const auto joints = explore::grouped_joints(groups);
  if (joints.empty() || joints.size() > most_joints) return std::nullopt;
  if (joints.size() * game.network.size() > most_gates) return std::nullopt;
  SomeMove result(list);
  circuit::Network& network = list.network();
  std::vector<Signal> all_can{!game.terminal};
  for (const auto& legal : game.legal) all_can.push_back(network.any(legal));
  const Signal open = network.all(std::move(all_can));
  for (const explore::JointNumbers& joint : joints) {
    std::vector<Signal> all{open};
    for (std::size_t role = 0; role < joint.size(); ++role) {
      all.push_back(game.legal[role][joint[role]]);
    }
    const Signal possible = network.all(std::move(all));
    if (possible != circuit::never) result.joints_.push_back({possible, list.with_moves(&joint)});
  }
  result.joints_.push_back({!open, list.with_moves(nullptr)});
  result.others_ =
      list.watch_fault(network.both(open, explore::other_joints(network, groups, game.legal)));
  return result;
}

Signal SomeMove::operator()(Signal signal) {
  std::vector<Signal> ways;
  for (Joint& joint : joints_) {
    ways.push_back(inquiry_->network().both(joint.possible, joint.with(signal)));
  }
  return inquiry_->network().any(std::move(ways));
}

}  // namespace orchard::review
