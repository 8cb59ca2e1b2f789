#include "game/random_line.hpp"

namespace orchard {

LineEnding random_line(PositionEvaluator& evaluator, std::vector<TermId> fluents, Random& random,
                       std::uint64_t most_plies,
                       const std::function<bool(const LinePosition&)>& visit) {
  LinePosition at;
  std::vector<std::vector<TermId>> legal;
  std::vector<TermId> joint;
  at.fluents = &fluents;
  at.legal = &legal;
  at.evaluator = &evaluator;
  const auto end = [&](LineEnding ending) {
    at.joint = nullptr;
    at.ending = ending;
    visit(at);
    return ending;
  };
  for (;; ++at.ply) {
    evaluator.set_position(fluents);
    legal.clear();
    if (evaluator.terminal()) return end(LineEnding::terminal);
    legal = evaluator.legal();
    if (at.ply >= most_plies) return end(LineEnding::plies);
    joint.clear();
    for (const std::vector<TermId>& moves : legal) {
      if (moves.empty()) return end(LineEnding::stuck);
      joint.push_back(moves[random.below(moves.size())]);
    }
    evaluator.set_joint_move(joint);
    at.joint = &joint;
    if (!visit(at)) return LineEnding::left;
    fluents = evaluator.next();
  }
}

}  // namespace orchard
