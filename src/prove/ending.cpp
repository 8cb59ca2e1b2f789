#include "prove/ending.hpp"

#include <algorithm>
#include <deque>
#include <set>

namespace orchard::prove {
namespace {

// Each fluent is a value, and one more that none of them holds.
struct Chain {
  std::string name;
  std::vector<std::uint32_t> fluents;
  Signal none;

  std::size_t values() const { return fluents.size() + 1; }
  std::size_t value(const std::vector<bool>& position) const {
    std::size_t v = 0;
    while (v < fluents.size() && !position[fluents[v]]) ++v;
    return v;
  }
};

// The longest way to each value along the moves; none if they go round.
std::optional<std::vector<std::size_t>> heights(
    std::size_t values, const std::set<std::pair<std::size_t, std::size_t>>& moves) {
  std::vector<std::size_t> height(values, 0);
  for (std::size_t round = 0; round <= values; ++round) {
    bool changed = false;
    for (const auto& [from, to] : moves) {
      if (height[to] > height[from]) continue;
      height[to] = height[from] + 1;
      changed = true;
    }
    if (!changed) return height;
  }
  return std::nullopt;
}

class Search {
 public:
  Search(Induction& induction, const ground::GroundProgram& ground,
         const circuit::GameNetwork& game, const std::vector<FluentGroup>& groups,
         const std::vector<SampledStep>& steps)
      : unrolled_(induction.unrolled()), solver_(induction.solver()), game_(game) {
    for (const FluentGroup& group : groups)
      chains_.push_back({group.name, group.fluents, group.none});
    for (std::uint32_t f = 0; f < ground.fluents().size(); ++f) {
      const std::string name = ground.terms().term(ground.fluents()[f].term).name();
      chains_.push_back({name, {f}, !game.fluents[f]});
    }
    for (const SampledStep& step : steps) steps_.push_back(&step);
  }

  std::optional<EndingProof> run() {
    EndingProof proof;
    proof.most_plies = 0;
    while (true) {
      Level level;
      for (std::size_t c = 0; c < chains_.size(); ++c) add_if_chain(c, level);
      if (level.chains.empty()) return std::nullopt;
      const bool ends = complete(level);
      add_level(level, proof);
      if (ends) return proof;
      if (solver_.exhausted()) return std::nullopt;
      assumed_.insert(assumed_.end(), level.still.begin(), level.still.end());
      std::erase_if(steps_, [&](const SampledStep* step) { return moves_one(level, *step); });
    }
  }

 private:
  static constexpr int most_conflicts = 20'000;
  struct Level {
    std::set<std::size_t> chains;
    std::uint64_t length = 0;  // of the chains together
    std::vector<int> still;    // for each chain: that it does not move
    std::vector<bool> covered;
  };

  void add_if_chain(std::size_t number, Level& level) {
    const Chain& chain = chains_[number];
    level.covered.resize(game_.fluents.size(), false);
    // Groups come first: their order says more than that of each of their fluents.
    if (std::ranges::all_of(chain.fluents, [&](std::uint32_t f) { return level.covered[f]; })) {
      return;
    }
    const std::size_t height = proved_height(chain);
    if (height == 0) return;
    level.chains.insert(number);
    level.length += height;
    level.still.push_back(stillness(chain));
    for (const std::uint32_t f : chain.fluents) level.covered[f] = true;
  }

  // Whether some chain of the level moves with every step there is. A step that the solver finds
  // against it shows which chains the samples have missed.
  bool complete(Level& level) {
    while (true) {
      std::vector<int> question = assumed_;
      question.insert(question.end(), level.still.begin(), level.still.end());
      const Solver::Answer answer = solve(question);
      if (answer != Solver::Answer::possible) return answer == Solver::Answer::impossible;
      const SampledStep& step =
          found_.emplace_back(unrolled_.found_position(0), unrolled_.found_position(1));
      steps_.push_back(&step);
      const std::size_t before = level.chains.size();
      for (std::size_t c = 0; c < chains_.size(); ++c) {
        if (chains_[c].value(step.before) != chains_[c].value(step.after)) add_if_chain(c, level);
      }
      if (level.chains.size() == before) return false;
    }
  }

  // Lines are at most so many times longer as the level's chains can move between two moves of
  // those before.
  void add_level(const Level& level, EndingProof& proof) const {
    std::set<std::string> names;
    for (const std::size_t c : level.chains) names.insert(chains_[c].name);
    proof.levels.emplace_back(names.begin(), names.end());
    constexpr std::uint64_t most = std::uint64_t{1} << 31;
    const bool fits = proof.most_plies && *proof.most_plies < most && level.length < most;
    proof.most_plies =
        fits ? std::optional((*proof.most_plies + 1) * (level.length + 1) - 1) : std::nullopt;
  }

  bool moves_one(const Level& level, const SampledStep& step) const {
    return std::ranges::any_of(level.chains, [&](std::size_t c) {
      return chains_[c].value(step.before) != chains_[c].value(step.after);
    });
  }

  Solver::Answer solve(const std::vector<int>& assumptions) {
    return solver_.solve(assumptions, most_conflicts);
  }

  int literal(std::size_t ply, const Chain& chain, std::size_t value) {
    return unrolled_.literal(
        ply, value < chain.fluents.size() ? game_.fluents[chain.fluents[value]] : chain.none);
  }

  // How far the chain can move forward in all; 0 if it is none, or never moves.
  std::size_t proved_height(const Chain& chain) {
    std::set<std::pair<std::size_t, std::size_t>> moves;
    for (const SampledStep* step : steps_) {
      const std::size_t from = chain.value(step->before);
      const std::size_t to = chain.value(step->after);
      if (from != to) moves.insert({from, to});
    }
    if (moves.empty()) return 0;
    while (const auto height = heights(chain.values(), moves)) {
      const auto other = move_against(chain, *height);
      if (!other) return std::ranges::max(*height);
      if (!moves.insert(*other).second) return 0;
    }
    return 0;
  }

  // A move of the chain that does not go up, if the rules allow one; a move that was there already
  // if that is not known.
  std::optional<std::pair<std::size_t, std::size_t>> move_against(
      const Chain& chain, const std::vector<std::size_t>& height) {
    for (std::size_t from = 0; from < chain.values(); ++from) {
      std::vector<int> not_up;
      for (std::size_t to = 0; to < chain.values(); ++to) {
        if (to != from && height[to] <= height[from]) not_up.push_back(literal(1, chain, to));
      }
      if (not_up.empty()) continue;
      std::vector<int> question = assumed_;
      question.push_back(literal(0, chain, from));
      question.push_back(not_up.size() == 1 ? not_up.front() : unrolled_.any_of(not_up));
      switch (solve(question)) {
        case Solver::Answer::impossible:
          break;
        case Solver::Answer::possible:
          for (std::size_t to = 0; to < chain.values(); ++to) {
            if (to != from && height[to] <= height[from] && solver_.holds(literal(1, chain, to))) {
              return std::pair(from, to);
            }
          }
          [[fallthrough]];
        case Solver::Answer::unknown:
          return std::pair(from, from);
      }
    }
    return std::nullopt;
  }

  // A literal for steps at which the chain does not move.
  int stillness(const Chain& chain) {
    const int still = solver_.new_variable();
    for (std::size_t v = 0; v < chain.values(); ++v) {
      solver_.add({-still, -literal(0, chain, v), literal(1, chain, v)});
    }
    return still;
  }

  UnrolledGame& unrolled_;
  Solver& solver_;
  const circuit::GameNetwork& game_;
  std::vector<int> assumed_;
  std::vector<Chain> chains_;
  std::deque<SampledStep> found_;          // by the solver
  std::vector<const SampledStep*> steps_;  // at which no chain of the levels before moves
};

}  // namespace

void StepCollector::look(std::span<const std::uint64_t> rows,
                         std::span<const explore::SampledGames::Place> places) {
  const std::size_t words = rows.size() / std::max<std::size_t>(places.size(), 1);
  for (std::size_t at = 0; at < places.size() && steps_.size() < most; ++at) {
    std::vector<bool> here(fluents_);
    for (std::size_t f = 0; f < fluents_; ++f) {
      here[f] = (rows[at * words + f / 64] >> f % 64 & 1) != 0;
    }
    const auto& [game, ply] = places[at];
    if (last_.size() <= game) last_.resize(game + 1);
    if (ply > 0) steps_.emplace_back(std::move(last_[game]), here);
    last_[game] = std::move(here);
  }
}

std::optional<EndingProof> prove_ending(Induction& induction, const ground::GroundProgram& ground,
                                        const circuit::GameNetwork& game,
                                        const std::vector<FluentGroup>& groups,
                                        const std::vector<SampledStep>& steps) {
  return Search(induction, ground, game, groups, steps).run();
}

}  // namespace orchard::prove
