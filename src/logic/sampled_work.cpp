#include "logic/sampled_work.hpp"

#include <algorithm>

#include "logic/evaluator.hpp"
#include "orchard/random.hpp"

namespace orchard::logic {

namespace {

// One random move of each role; empty if some role has none.
std::vector<TermId> random_joint(const std::vector<std::vector<TermId>>& legal, Random& random) {
  std::vector<TermId> joint;
  for (const std::vector<TermId>& moves : legal) {
    if (moves.empty()) return {};
    joint.push_back(moves[random.below(moves.size())]);
  }
  return joint;
}

// From `fluents` to the next position, or back to the start where play ends.
bool play_on(Evaluator& evaluator, std::vector<TermId>& fluents, Random& random) {
  evaluator.set_position(fluents);
  std::vector<TermId> joint;
  if (!evaluator.terminal()) joint = random_joint(evaluator.legal(), random);
  if (joint.empty()) {
    evaluator.goals();
    const bool began = fluents == evaluator.program().initial();
    fluents = evaluator.program().initial();
    return !began;
  }
  evaluator.set_joint_move(joint);
  fluents = evaluator.next();
  return true;
}

}  // namespace

SampledWork sample_work(const Program& program, std::uint64_t plies, std::uint64_t most_work) {
  // The evaluator lives shorter than the program.
  Evaluator evaluator(std::shared_ptr<const Program>(std::shared_ptr<const Program>(), &program));
  SampledWork result;
  result.rows.resize(program.tables().size(), 0);
  Random random(1);
  std::vector<TermId> fluents = program.initial();
  try {
    while (result.plies < plies && evaluator.work() <= most_work) {
      if (!play_on(evaluator, fluents, random)) break;
      ++result.plies;
      for (std::size_t t = 0; t < result.rows.size(); ++t) {
        result.rows[t] += evaluator.rows(TableId{static_cast<std::uint32_t>(t)});
      }
    }
  } catch (const LimitExceeded&) {
    result.broke_off = true;
  }
  for (double& rows : result.rows)
    rows /= static_cast<double>(std::max<std::uint64_t>(result.plies, 1));
  result.total = evaluator.work();
  for (std::uint32_t c = 0; c < program.components().size(); ++c) {
    result.of_component.push_back(evaluator.work_of(c));
  }
  return result;
}

}  // namespace orchard::logic
