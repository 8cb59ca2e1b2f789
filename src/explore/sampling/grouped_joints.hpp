// The joint moves of a game in which the roles of each group choose one at a time, as games that
// were sampled suggest (see `circuit/programs/choice_groups.hpp`): few where there would be as many
// as ways to combine all moves of all roles.
//
// Whoever relies on them must see to it that `others` holds in no position.
#pragma once

#include <cstdint>
#include <vector>

#include "circuit/programs/choice_groups.hpp"

namespace orchard::explore {

using JointNumbers = std::vector<std::uint32_t>;  // a move number for each role

// In each group one role makes a move that is no waiting move, or all of it wait. Empty if there
// are more than 4096.
std::vector<JointNumbers> grouped_joints(const circuit::ChoiceGroups& groups);

// That several roles of a group can choose at once. `legal`: by role and move, of any network.
circuit::Signal other_joints(circuit::Network& network, const circuit::ChoiceGroups& groups,
                             const std::vector<std::vector<circuit::Signal>>& legal);

}  // namespace orchard::explore
