// That every line of play ends, proved by sums of fluents that fall with every move.
//
// A measure is a list of sums: every joint move makes the first of them that changes fall. Pieces
// that are taken, rows that pieces have come, what is counted: the weights are found by linear
// programming from steps of sampled games, so that one sum falls at as many of them as it can and
// rises at none, then another one for those that are left, and so on. Then every joint move is
// looked at by `StepInduction`; a step that is found against the measure joins the sample. Source:
// Podelski and Rybalchenko, "A complete method for the synthesis of linear ranking functions"
// (2004); Bradley, Manna and Sipma, "Linear ranking with reachability" (2005). One thread.
#pragma once

#include <optional>
#include <vector>

#include "prove/ending.hpp"
#include "prove/step_induction.hpp"

namespace orchard::prove {

// None if no measure was found, or an interruption came first. `induction`: of which the groups are
// proved that keep sums small.
std::optional<EndingProof> prove_ending_by_sums(StepInduction& induction,
                                                const ground::GroundProgram& ground,
                                                const std::vector<SampledStep>& steps);

}  // namespace orchard::prove
