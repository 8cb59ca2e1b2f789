#include "orchard/formula_counts.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "explore/sampling/sampled_games.hpp"
#include "explore/space/watch.hpp"
#include "orchard/random.hpp"
#include "review/claims/claims.hpp"
#include "review/claims/searched_claim.hpp"

namespace orchard {
namespace {

// One formula, watched in positions of the rules with what it adds to them.
class FormulaWatch {
 public:
  static Result<FormulaWatch> make(const Game& game, const std::string& formula) {
    auto claims = review::Claims::of_formula(game, formula);
    if (!claims) return claims.diagnostics();
    const review::Claim& claim = claims->claims().front();
    review::Exploration exploration(game, claims->explored(), 0);
    const review::Inquiry inquiry(exploration);
    std::vector<circuit::Signal> signals;
    for (const review::Instance& instance : review::instances_of(inquiry, claim, claim.relation)) {
      if (instance.needs_move) {
        return plain_error(
            "bad-claim",
            fmt::format("{} asks for the move that is made; positions are looked at", formula),
            "ask for what holds after the move");
      }
      signals.push_back(instance.signal);
    }
    const circuit::Signal any = inquiry.network().any(std::move(signals));
    FormulaWatch result(claims->explored(),
                        explore::Watch(exploration.lanes(), inquiry.network(), {any}));
    result.unfit_ = claim.unfit;
    return result;
  }

  const LaneGame& lanes() const { return *GameAccess::core(game_)->lanes(); }
  // Literals that nothing the rules can derive fits.
  const std::vector<std::string>& unfit() const { return unfit_; }
  // The row of a position of the game.
  std::vector<std::uint64_t> row_of(const Position& position) const {
    const auto here = game_.position(position.fluents()).value();
    return lanes().row(lanes().bits(GameAccess::state(here).fluents()).value());
  }
  void look(std::span<const std::uint64_t> rows, std::size_t count) { watch_.look(rows, count); }
  bool holds(std::size_t at) const { return watch_.holds(0, at); }

 private:
  FormulaWatch(Game game, explore::Watch watch)
      : game_(std::move(game)), watch_(std::move(watch)) {}

  Game game_;  // with what the formula adds to the rules
  explore::Watch watch_;
  std::vector<std::string> unfit_;
};

// One formula in the games of a seed: the same for every formula, whatever it adds to the rules.
class FormulaCounter {
 public:
  static Result<FormulaCounter> make(const Game& game, const std::string& formula) {
    auto watch = FormulaWatch::make(game, formula);
    if (!watch) return watch.diagnostics();
    FormulaCounter result(std::move(watch).value());
    result.count_.formula = formula;
    result.count_.unfit = result.watch_.unfit();
    return result;
  }

  // A batch of games, from a position of the game; leaves by `Interrupted` without counting it.
  void play(const Position& from, std::size_t games, std::uint64_t plies, Random random) {
    constexpr std::uint64_t never = ~std::uint64_t{0};
    std::vector<std::uint64_t> first(games, never);
    std::uint64_t positions = 0;
    explore::SampledGames sampled(watch_.lanes());
    sampled.play(games, watch_.row_of(from), random, plies,
                 [&](std::span<const std::uint64_t> rows,
                     std::span<const explore::SampledGames::Place> places, const LaneEvaluator&) {
                   watch_.look(rows, places.size());
                   for (std::size_t at = 0; at < places.size(); ++at) {
                     if (!watch_.holds(at)) continue;
                     ++positions;
                     std::uint64_t& known = first[places[at].game];
                     known = std::min<std::uint64_t>(known, places[at].ply);
                   }
                 });
    count_.positions += positions;
    for (const std::uint64_t ply : first) {
      if (ply == never) continue;
      ++count_.games;
      ++count_.first[ply];
    }
  }

  const FormulaCount& count() const { return count_; }

 private:
  explicit FormulaCounter(FormulaWatch watch) : watch_(std::move(watch)) {}

  FormulaWatch watch_;
  FormulaCount count_;
};

}  // namespace

double FormulaCount::mean_first() const {
  double sum = 0;
  for (const auto& [ply, in_games] : first) {
    sum += static_cast<double>(ply) * static_cast<double>(in_games);
  }
  return games == 0 ? 0 : sum / static_cast<double>(games);
}

Result<FormulaCounts> count_formulas(const Game& game, const std::vector<std::string>& formulas,
                                     const PlayoutOptions& options) {
  constexpr std::uint64_t usual_games = 1000;
  constexpr std::uint64_t batch = 512;
  const Interruption interruption(options.budget);
  const GameCore& core = *GameAccess::core(game);
  if (core.lanes() == nullptr) return core.lanes_fault();
  const std::uint64_t all =
      options.games.value_or(options.budget.seconds ? ~std::uint64_t{0} : usual_games);
  FormulaCounts result;
  std::vector<FormulaCounter> counters;
  const auto take = [&] {
    result.formulas.clear();
    for (const FormulaCounter& counter : counters) result.formulas.push_back(counter.count());
  };
  try {
    for (const std::string& formula : formulas) {
      auto counter = FormulaCounter::make(game, formula);
      if (!counter) return counter.diagnostics();
      counters.push_back(std::move(counter).value());
    }
    const Position from = options.from ? *options.from : game.initial();
    for (take(); result.games < all; take()) {
      const std::uint64_t games = std::min(batch, all - result.games);
      const Random random = Random::stream(options.seed, result.games);
      for (FormulaCounter& counter : counters) counter.play(from, games, options.plies, random);
      result.games += games;
    }
  } catch (const Interrupted& interrupted) {  // formulas as of the last whole batch
    result.ending = interrupted.ending;
  }
  return result;
}

Result<PliesWhere> plies_where(const Game& game, const std::string& formula,
                               const std::vector<Line>& lines) {
  constexpr std::size_t batch = 512;
  if (GameAccess::core(game)->lanes() == nullptr) return GameAccess::core(game)->lanes_fault();
  auto watch = FormulaWatch::make(game, formula);
  if (!watch) return watch.diagnostics();
  PliesWhere result{watch->unfit(), std::vector<std::vector<std::uint64_t>>(lines.size())};
  std::vector<std::uint64_t> rows;
  std::vector<std::pair<std::size_t, std::uint64_t>> places;  // line and ply
  const auto look = [&] {
    watch->look(rows, places.size());
    for (std::size_t at = 0; at < places.size(); ++at) {
      if (watch->holds(at)) result.plies[places[at].first].push_back(places[at].second);
    }
    rows.clear();
    places.clear();
  };
  for (std::size_t number = 0; number < lines.size(); ++number) {
    for (std::uint64_t ply = 0; ply < lines[number].positions.size(); ++ply) {
      const auto row = watch->row_of(lines[number].positions[ply]);
      rows.insert(rows.end(), row.begin(), row.end());
      places.emplace_back(number, ply);
      if (places.size() == batch) look();
    }
  }
  if (!places.empty()) look();
  return result;
}

}  // namespace orchard
