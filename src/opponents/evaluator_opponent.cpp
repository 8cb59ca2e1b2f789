#include "opponents/evaluator_opponent.hpp"

#include <algorithm>
#include <chrono>

#include "base/interruption.hpp"
#include "game/random_line.hpp"
#include "orchard/random.hpp"

namespace orchard::opponents {
namespace {

class EvaluatorOpponent : public Opponent {
 public:
  explicit EvaluatorOpponent(std::uint64_t seed) : random_(seed) {}
  std::string name() const override { return "evaluator"; }

  Move choose(const Situation& situation) override {
    const std::vector<Move>& legal = situation.legal;
    if (legal.size() == 1) return legal.front();
    std::vector<Tried> tried(legal.size());
    try {
      const Interruption interruption(patience_of(situation));
      const std::vector<Position> positions = where_it_may_be(situation);
      for (int game = 0; game < most_games && !positions.empty(); ++game) {
        for (std::size_t i = 0; i < legal.size(); ++i) {
          end_if_interrupted();
          const Position& from = positions[random_.below(positions.size())];
          if (const auto goal = goal_after(situation, from, legal[i])) {
            tried[i].sum += *goal;
            ++tried[i].games;
          }
        }
      }
    } catch (const Interrupted&) {
      // By the situation: of what was tried the best. Else by whoever waits for more than a move.
      end_if_interrupted();
    } catch (const logic::LimitExceeded&) {
      // Rules that cost too much in some position: what was tried tells.
    }
    std::vector<std::size_t> best;
    for (std::size_t i = 0; i < legal.size(); ++i) {
      const double mean = tried[i].mean();
      if (!best.empty() && mean < tried[best.front()].mean()) continue;
      if (!best.empty() && mean > tried[best.front()].mean()) best.clear();
      best.push_back(i);
    }
    return legal[best[random_.below(best.size())]];
  }

 private:
  struct Tried {
    double sum = 0;
    double games = 0;
    double mean() const { return games == 0 ? -1 : sum / games; }
  };
  static constexpr int most_games = 50;             // a move
  static constexpr std::uint64_t most_plies = 200;  // of a game

  static Budget patience_of(const Situation& situation) {
    constexpr double used = 0.8;  // of the time: a step may take long where rules are large
    Budget budget;
    budget.stop = situation.stop;
    if (situation.deadline) {
      const std::chrono::duration<double> left =
          *situation.deadline - std::chrono::steady_clock::now();
      budget.seconds = used * left.count();
    }
    return budget;
  }

  std::vector<Position> where_it_may_be(const Situation& situation) {
    constexpr std::size_t some = 16;
    if (situation.view == nullptr) return {situation.position};
    return situation.view->some(some, random_.below(~0ULL));
  }

  // The role's goal at the end of a random game that begins with its move; none if there is none.
  std::optional<double> goal_after(const Situation& situation, const Position& from,
                                   const Move& own) {
    const Game& game = situation.game;
    JointMove joint;
    for (const Role& role : game.roles()) {
      const std::vector<Move> legal = game.legal(from, role);
      if (legal.empty()) return std::nullopt;
      joint.add(role == situation.role ? own : legal[random_.below(legal.size())]);
    }
    const auto next = game.next(from, joint);
    if (!next) return std::nullopt;
    const GameCore& core = *GameAccess::core(game);
    const auto& fluents = GameAccess::state(*next).fluents();
    GameCore::Lease evaluator(core);
    std::optional<double> result;
    random_line(*evaluator, {fluents.begin(), fluents.end()}, random_, most_plies,
                [&](const LinePosition& at) {
                  end_if_interrupted();
                  if (at.joint == nullptr) result = goal_here(core, *evaluator, situation.role);
                  return true;
                });
    return result;
  }

  static std::optional<double> goal_here(const GameCore& core, PositionEvaluator& evaluator,
                                         const Role& role) {
    std::vector<Term> values;
    const auto goals = evaluator.goals();
    for (const TermId value : goals[role.index()]) values.push_back(core.terms().term(value));
    const auto number = only_number(values);
    return number ? std::optional(static_cast<double>(*number)) : std::nullopt;
  }

  Random random_;
};

}  // namespace

std::unique_ptr<Opponent> evaluator_opponent(std::uint64_t seed) {
  return std::make_unique<EvaluatorOpponent>(seed);
}

}  // namespace orchard::opponents
