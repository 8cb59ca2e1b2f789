#include "explore/sampling/grouped_joints.hpp"

#include "explore/sampling/joint_moves.hpp"

namespace orchard::explore {

using circuit::Signal;

namespace {

constexpr std::size_t most_joints = 4096;

// What the roles of a group do together: one of them makes a move that is no waiting move, or all
// wait.
std::vector<JointNumbers> options_of(const circuit::ChoiceGroups& groups,
                                     const std::vector<std::size_t>& group) {
  std::vector<std::vector<std::uint32_t>> waits(group.size());
  std::vector<std::vector<std::uint32_t>> others(group.size());
  for (std::size_t i = 0; i < group.size(); ++i) {
    const std::vector<bool>& waiting = groups.waits[group[i]];
    for (std::uint32_t m = 0; m < waiting.size(); ++m)
      (waiting[m] ? waits : others)[i].push_back(m);
  }
  std::vector<JointNumbers> result;
  const auto add = [&](const JointNumbers& joint) { result.push_back(joint); };
  for (std::size_t i = 0; i < group.size(); ++i) {
    std::vector<std::vector<std::uint32_t>> moves = waits;
    moves[i] = others[i];
    each_joint_move(moves, add);
    if (result.size() > most_joints) return result;
  }
  each_joint_move(waits, add);
  return result;
}

}  // namespace

std::vector<JointNumbers> grouped_joints(const circuit::ChoiceGroups& groups) {
  std::vector<JointNumbers> result{JointNumbers(groups.waits.size(), 0)};
  for (const std::vector<std::size_t>& group : groups.groups) {
    const std::vector<JointNumbers> options = options_of(groups, group);
    if (result.size() * options.size() > most_joints) return {};
    std::vector<JointNumbers> longer;
    for (const JointNumbers& joint : result) {
      for (const JointNumbers& option : options) {
        longer.push_back(joint);
        for (std::size_t i = 0; i < group.size(); ++i) longer.back()[group[i]] = option[i];
      }
    }
    result = std::move(longer);
  }
  return result;
}

Signal other_joints(circuit::Network& network, const circuit::ChoiceGroups& groups,
                    const std::vector<std::vector<Signal>>& legal) {
  std::vector<Signal> result;
  for (const std::vector<std::size_t>& group : groups.groups) {
    std::vector<Signal> choosing;
    for (const std::size_t role : group) {
      std::vector<Signal> others;
      for (std::size_t m = 0; m < legal[role].size(); ++m) {
        if (!groups.waits[role][m]) others.push_back(legal[role][m]);
      }
      choosing.push_back(network.any(std::move(others)));
    }
    result.push_back(network.several(choosing));
  }
  return network.any(std::move(result));
}

}  // namespace orchard::explore
