// Games by which a table learns.
#include "orchard/learn.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "orchard/learn_values.hpp"
#include "orchard/random.hpp"

namespace orchard {
namespace {

std::unique_ptr<Opponent> learner(std::shared_ptr<TokenTable> table, std::uint64_t seed) {
  return token_player(std::move(table), seed, true);
}
std::unique_ptr<Opponent> learner(std::shared_ptr<ValueTable> table, std::uint64_t seed) {
  return value_player(std::move(table), seed, true);
}

template <class Table>
class Lessons {
 public:
  Lessons(const Game& game, Table& table, const LearnOptions& options)
      : game_(game), table_(std::make_shared<Table>(table)), target_(table), options_(options) {}

  Result<LearningCurve> run();

 private:
  Diagnostics make_others();
  Position start_of(Random& random) const;

  const Game& game_;
  std::shared_ptr<Table> table_;
  Table& target_;
  const LearnOptions& options_;
  std::vector<std::unique_ptr<Opponent>> opponents_;  // by role
};

template <class Table>
Diagnostics Lessons<Table>::make_others() {
  Diagnostics faults;
  for (const Role& role : game_.roles()) {
    const std::uint64_t seed = Random::stream(options_.seed, role.index()).below(~0ULL);
    if (role == table_->role()) {
      opponents_.push_back(learner(table_, seed));
      continue;
    }
    if (const auto own = options_.makers.find(role.name()); own != options_.makers.end()) {
      opponents_.push_back(own->second(seed));
      continue;
    }
    const auto who = options_.against.find(role.name());
    auto made = make_opponent(
        who == options_.against.end() || role.is_chance() ? "random" : who->second, seed);
    if (!made) {
      faults.append(made.diagnostics());
      opponents_.push_back(nullptr);
    } else {
      opponents_.push_back(std::move(made).value());
    }
  }
  return faults;
}

// A start of the list, and some random plies from there: where the usual path does not come.
template <class Table>
Position Lessons<Table>::start_of(Random& random) const {
  Position position = options_.starts.empty()
                          ? game_.initial()
                          : options_.starts[random.below(options_.starts.size())];
  if (options_.random_plies == 0) return position;
  const std::uint64_t plies = random.below(options_.random_plies + 1);
  const auto over = [&](const Position& at) {
    return game_.terminal(at) || std::ranges::any_of(game_.roles(), [&](const Role& role) {
             return game_.legal(at, role).empty();
           });
  };
  for (std::uint64_t ply = 0; ply < plies && !over(position); ++ply) {
    JointMove joint;
    for (const Role& role : game_.roles()) {
      const std::vector<Move> legal = game_.legal(position, role);
      joint.add(legal[random.below(legal.size())]);
    }
    const auto next = game_.next(position, joint);
    if (!next) break;
    if (over(*next)) break;  // a game that is over teaches nothing
    position = *next;
  }
  return position;
}

template <class Table>
Result<LearningCurve> Lessons<Table>::run() {
  if (Diagnostics faults = make_others(); !faults.empty()) return faults;
  std::vector<Opponent*> seats;
  for (const auto& opponent : opponents_) seats.push_back(opponent.get());
  LearningCurve curve;
  curve.begun_after = table_->games();
  Random random = Random::stream(options_.seed, game_.roles().size());
  const Interruption interruption(options_.budget);
  Stopwatch clock(options_.budget);
  double saved = 0;
  for (std::uint64_t number = 0; number < options_.games; ++number) {
    if (const auto end = clock.check(number)) {
      curve.ending = *end;
      break;
    }
    if (options_.save && clock.seconds() - saved >= options_.save_every) {
      saved = clock.seconds();
      target_ = *table_;
      options_.save();
    }
    Match match(game_, start_of(random));
    try {
      Diagnostics faults = play_on(match, seats, options_.plies);
      if (!faults.empty()) return faults;
    } catch (const Interrupted& interrupted) {
      curve.ending = interrupted.ending;
      break;
    }
    if (number % std::max<std::uint64_t>(1, options_.block) == 0) curve.blocks.emplace_back();
    if (options_.ended) options_.ended(match);
    LearnBlock& block = curve.blocks.back();
    ++block.games;
    const Outcome outcome = outcome_of(game_, match.position());
    if (!match.over()) continue;  // broken off
    const auto goal = game_.goal(match.position(), table_->role());
    block.count(outcome.standing(table_->role()), static_cast<double>(goal.value_or(0)));
  }
  target_ = std::move(*table_);  // the opponents that share it do not play any more
  return curve;
}

}  // namespace

Result<LearningCurve> learn(const Game& game, TokenTable& table, const LearnOptions& options) {
  return Lessons<TokenTable>(game, table, options).run();
}

Result<LearningCurve> learn(const Game& game, ValueTable& table, const LearnOptions& options) {
  return Lessons<ValueTable>(game, table, options).run();
}

}  // namespace orchard
