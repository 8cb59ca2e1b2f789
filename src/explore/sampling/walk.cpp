#include "game/random_line.hpp"
#include "orchard/playouts.hpp"

namespace orchard {
namespace {

std::vector<std::vector<Term>> terms_of(const GameCore& core,
                                        const std::vector<std::vector<TermId>>& ids) {
  std::vector<std::vector<Term>> result(ids.size());
  for (std::size_t r = 0; r < ids.size(); ++r) {
    for (const TermId id : ids[r]) result[r].push_back(core.terms().term(id));
  }
  return result;
}

}  // namespace

Result<bool> random_walk(const Game& game, const WalkOptions& options,
                         const std::function<bool(const WalkStep&)>& visit) {
  const GameCore& core = *GameAccess::core(game);
  const Position& from = options.from ? *options.from : game.initial();
  Random random = Random::stream(options.seed, options.game);
  std::optional<Diagnostics> fault;
  std::vector<std::vector<Term>> sees;
  const auto show = [&](const LinePosition& at) {
    auto state = core.work_out(*at.fluents);
    if (!state) {
      fault = state.diagnostics();
      return false;
    }
    WalkStep step{options.game, at.ply, GameAccess::position(*state), std::move(sees), {}, {}, {}};
    sees.clear();
    if (at.joint != nullptr) {
      JointMove joint;
      for (const TermId move : *at.joint) joint.add(GameAccess::move(game, move));
      step.joint = std::move(joint);
      if (game.has_hidden_information()) sees = terms_of(core, at.evaluator->percepts());
    } else if (at.ending == LineEnding::stuck) {
      for (const Role& role : game.roles()) {
        if ((*at.legal)[role.index()].empty()) step.stuck.push_back(role);
      }
    }
    step.cut = at.joint == nullptr && at.ending == LineEnding::plies;
    return visit(step);
  };
  try {
    GameCore::Lease evaluator(core);
    const LineEnding ending =
        random_line(*evaluator, GameAccess::state(from).fluents(), random, options.plies, show);
    if (fault) return *fault;
    return ending != LineEnding::left;
  } catch (const logic::LimitExceeded& limit) {
    return core.too_large(limit);
  }
}

}  // namespace orchard
