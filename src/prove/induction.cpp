#include "prove/induction.hpp"

#include <algorithm>

#include "prove/values.hpp"

namespace orchard::prove {

Induction::Induction(const circuit::GameNetwork& game, const circuit::Network& network,
                     std::vector<bool> start, const InductionLimits& limits)
    : game_(game),
      network_(network),
      start_(std::move(start)),
      limits_(limits),
      unrolled_(solver_, game, network) {
  unrolled_.add_ply();
}

void Induction::begin(const std::vector<Signal>& suspects, std::uint64_t work) {
  suspects_.insert(suspects_.end(), suspects.begin(), suspects.end());
  std::ranges::sort(suspects_);
  suspects_.erase(std::unique(suspects_.begin(), suspects_.end()), suspects_.end());
  std::erase(suspects_, circuit::never);
  alive_.assign(suspects_.size(), true);
  refute(start_);
  solver_.limit(work * steps());
}

std::vector<std::vector<bool>> Induction::refutations(const std::vector<Signal>& suspects) {
  begin(suspects);
  suppose();
  refuting_.clear();
  round();
  suspects_.clear();
  return std::move(refuting_);
}

void Induction::suspect(const std::vector<Signal>& suspects, std::uint64_t work) {
  begin(suspects, work);
  run();
  solver_.limit(steps());
  std::vector<Signal> open;
  for (std::size_t s = 0; s < suspects_.size(); ++s) {
    if (!alive_[s]) {
      open.push_back(suspects_[s]);
      continue;
    }
    know({suspects_[s]});
  }
  suspects_ = std::move(open);
}

void Induction::know(const std::vector<Signal>& never) {
  for (const Signal signal : never) {
    if (!proved_.insert(signal).second) continue;
    for (const std::size_t ply : {0, 1}) solver_.add({-unrolled_.literal(ply, signal)});
  }
}

Solver::Answer Induction::ask(std::initializer_list<int> assumptions, int conflicts) {
  return solver_.solve(std::span(assumptions.begin(), assumptions.size()),
                       std::min(conflicts, limits_.conflicts_a_question));
}

// Whoever cannot be proved from all that are left leaves; so often until nobody does.
void Induction::run() {
  suppose();
  while (!round()) suppose();
}

// A literal that says that none of those left holds at ply 0.
void Induction::suppose() {
  hypothesis_ = solver_.new_variable();
  for (std::size_t s = 0; s < suspects_.size(); ++s) {
    if (alive_[s]) solver_.add({-hypothesis_, -unrolled_.literal(0, suspects_[s])});
  }
}

// What follows from the hypothesis helps to show the rest of the round. If the round ends with
// fewer than it began with, that hypothesis is given up, and this with it.
void Induction::take_as_shown(std::size_t suspect) {
  solver_.add({-hypothesis_, -unrolled_.literal(1, suspects_[suspect])});
}

// Some suspects at a time: one question frees many of the set at once.
bool Induction::round() {
  constexpr std::size_t batch = 8;
  bool all = true;
  std::vector<std::size_t> open;
  for (std::size_t s = 0; s < suspects_.size(); ++s) {
    if (alive_[s]) open.push_back(s);
  }
  for (std::size_t first = 0; first < open.size(); first += batch) {
    const auto some = std::span(open).subspan(first, std::min(batch, open.size() - first));
    while (const auto answer = ask_together(some)) {
      if (*answer == Solver::Answer::possible) {
        all = false;
        continue;
      }
      for (const std::size_t s : some) {  // too hard together
        if (!alive_[s]) continue;
        const auto alone = ask({hypothesis_, unrolled_.literal(1, suspects_[s])});
        if (alone == Solver::Answer::impossible) {
          take_as_shown(s);
          continue;
        }
        if (alone == Solver::Answer::possible) refute_by(unrolled_.found_position(1));
        alive_[s] = all = false;
      }
      break;
    }
    for (const std::size_t s : some) {
      if (alive_[s]) take_as_shown(s);
    }
  }
  return all;
}

// Whether one of those left of some holds after a ply: if it can, what the position found shows
// leaves. Nothing if that is impossible.
std::optional<Solver::Answer> Induction::ask_together(std::span<const std::size_t> some) {
  std::vector<int> clause;
  for (const std::size_t s : some) {
    if (alive_[s]) clause.push_back(unrolled_.literal(1, suspects_[s]));
  }
  if (clause.empty()) return std::nullopt;
  const int together = solver_.new_variable();
  clause.push_back(-together);
  solver_.add(clause);
  constexpr int conflicts_together = 200;
  const Solver::Answer answer = ask({hypothesis_, together}, conflicts_together);
  if (answer == Solver::Answer::possible) refute_by(unrolled_.found_position(1));
  solver_.add({-together});
  if (answer == Solver::Answer::impossible) return std::nullopt;
  return answer;
}

// All that hold in the start, or in a position which the hypothesis leads to, leave.
void Induction::refute(const std::vector<bool>& position) {
  const std::vector<bool> values = values_in(game_, network_, position);
  for (std::size_t s = 0; s < suspects_.size(); ++s) {
    if (holds(values, suspects_[s])) alive_[s] = false;
  }
}

void Induction::refute_by(std::vector<bool> position) {
  refute(position);
  refuting_.push_back(std::move(position));
}

bool Induction::never(Signal signal) {
  if (signal == circuit::never || proved_.contains(signal)) return true;
  // At ply 0 stands no end: what follows from there, and the start, are all positions.
  if (holds(values_in(game_, network_, start_), signal)) return false;
  return ask({unrolled_.literal(1, signal)}) == Solver::Answer::impossible;
}

}  // namespace orchard::prove
