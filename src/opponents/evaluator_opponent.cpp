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
  EvaluatorOpponent(std::uint64_t seed, std::uint64_t most_plies)
      : random_(seed), most_plies_(most_plies) {}
  std::string name() const override { return "evaluator"; }

  Move choose(const Situation& situation) override {
    const std::vector<Move>& legal = situation.legal;
    if (legal.size() == 1) return legal.front();
    std::vector<Tried> tried(legal.size());
    plies_left_ = most_plies_;
    try {
      const Interruption interruption(patience_of(situation));
      const std::vector<Position> positions = where_it_may_be(situation);
      if (situation.view == nullptr) look_at_answers(situation, tried);
      play_games(situation, positions, tried);
    } catch (const Interrupted&) {
      // By the situation: of what was tried the best. Else by whoever waits for more than a move.
      end_if_interrupted();
    } catch (const logic::LimitExceeded&) {
      // Rules that cost too much in some position: what was tried tells.
    }
    std::vector<std::size_t> best;
    for (std::size_t i = 0; i < legal.size(); ++i) {
      const double worth = tried[i].worth();
      if (!best.empty() && worth < tried[best.front()].worth()) continue;
      if (!best.empty() && worth > tried[best.front()].worth()) best.clear();
      best.push_back(i);
    }
    return legal[best[random_.below(best.size())]];
  }

 private:
  struct Tried {
    double sum = 0;
    double games = 0;
    double at_most = 100;  // after the others' best answer, as far as it was seen
    double worth() const { return games == 0 ? -1 : std::min(at_most, sum / games); }
  };
  static constexpr int most_games = 1000;  // from each move

  // A game from each move in turn, until plies, games or time are used up.
  void play_games(const Situation& situation, const std::vector<Position>& positions,
                  std::vector<Tried>& tried) {
    // One game from each move within the plies, if they are not too short to say anything.
    most_plies_a_game_ = std::clamp<std::uint64_t>(most_plies_ / tried.size(), 30, 200);
    for (int game = 0; game < most_games && !positions.empty(); ++game) {
      for (std::size_t i = 0; i < tried.size(); ++i) {
        end_if_interrupted();
        if (plies_left_ == 0 && game > 0) return;
        const Position& from = positions[random_.below(positions.size())];
        if (const auto goal = goal_after(situation, from, situation.legal[i])) {
          tried[i].sum += *goal;
          ++tried[i].games;
        }
      }
    }
  }

  // Where the others only wait for this move: the ends that it makes, and those that they can make
  // with the next one. They are taken to choose what is worst for the role.
  void look_at_answers(const Situation& situation, std::vector<Tried>& tried) {
    const auto others_wait = waits(situation.game, situation.position, situation.role);
    if (!others_wait) return;
    for (std::size_t i = 0; i < tried.size(); ++i) {
      const auto next = made(situation.game, situation.position,
                             joint_of(*others_wait, situation.role, situation.legal[i]));
      if (!next) continue;
      if (situation.game.terminal(*next)) {
        tried[i].at_most = goal_at(situation.game, *next, situation.role).value_or(100);
        continue;
      }
      // Half of the plies at most: the games that follow tell what is not over so soon.
      if (plies_left_ < most_plies_ / 2) continue;
      for (const Role& other : situation.game.roles()) {
        if (other == situation.role || other.is_chance()) continue;
        const auto rest_wait = waits(situation.game, *next, other);
        if (!rest_wait) continue;
        for (const Move& answer : situation.game.legal(*next, other)) {
          const auto after = made(situation.game, *next, joint_of(*rest_wait, other, answer));
          if (!after || !situation.game.terminal(*after)) continue;
          const double goal = goal_at(situation.game, *after, situation.role).value_or(100);
          tried[i].at_most = std::min(tried[i].at_most, goal);
        }
      }
    }
  }

  // The moves of all other roles where none of them has a choice, in the order of the roles.
  static std::optional<std::vector<Move>> waits(const Game& game, const Position& from,
                                                const Role& who) {
    std::vector<Move> result;
    for (const Role& role : game.roles()) {
      if (role == who) continue;
      const std::vector<Move> legal = game.legal(from, role);
      if (legal.size() != 1) return std::nullopt;
      result.push_back(legal.front());
    }
    return result;
  }

  static JointMove joint_of(const std::vector<Move>& others, const Role& who, const Move& own) {
    std::vector<Move> moves(others);
    moves.insert(moves.begin() + static_cast<std::ptrdiff_t>(who.index()), own);
    return JointMove(std::move(moves));
  }

  std::optional<Position> made(const Game& game, const Position& from, const JointMove& joint) {
    end_if_interrupted();
    if (plies_left_ > 0) --plies_left_;
    const auto next = game.next(from, joint);
    return next ? std::optional(*next) : std::nullopt;
  }

  static std::optional<double> goal_at(const Game& game, const Position& end, const Role& role) {
    const auto goal = game.goal(end, role);
    return goal ? std::optional(static_cast<double>(*goal)) : std::nullopt;
  }

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
    random_line(*evaluator, {fluents.begin(), fluents.end()}, random_, most_plies_a_game_,
                [&](const LinePosition& at) {
                  end_if_interrupted();
                  if (plies_left_ > 0) --plies_left_;
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
  const std::uint64_t most_plies_;
  std::uint64_t plies_left_ = 0;  // of the choice at hand
  std::uint64_t most_plies_a_game_ = 200;
};

}  // namespace

std::unique_ptr<Opponent> evaluator_opponent(std::uint64_t seed, std::uint64_t most_plies) {
  return std::make_unique<EvaluatorOpponent>(seed, most_plies);
}

}  // namespace orchard::opponents
