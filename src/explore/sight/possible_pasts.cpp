#include "explore/sight/possible_pasts.hpp"

#include <algorithm>

#include "base/interruption.hpp"

namespace orchard::explore {

PossiblePasts::PossiblePasts(const LaneGame& game, std::size_t role,
                             std::vector<std::uint64_t> start, std::size_t most)
    : game_(game),
      role_(role),
      roles_(game.ground().moves().size()),
      most_(most),
      start_(std::move(start)),
      pasts_(1),
      rows_(1, start_) {}

void PossiblePasts::begin(Lines& lines) const {
  lines.rows.clear();
  lines.moves.clear();
  lines.given.clear();
  lines.redraw.clear();
  lines.count = 0;
}

void PossiblePasts::add(Lines& lines, const Row& row, const Moves& moves,
                        std::size_t redraw) const {
  lines.rows.insert(lines.rows.end(), row.begin(), row.end());
  lines.moves.insert(lines.moves.end(), moves.begin(), moves.end());
  lines.moves.resize((lines.count + 1) * steps_.size() * roles_, 0);
  lines.given.push_back(moves.size());
  lines.redraw.push_back(redraw);
  ++lines.count;
}

void PossiblePasts::play(Lines& lines, std::size_t ply, Random& random) {
  const std::size_t words = start_.size();
  const std::size_t all_moves = steps_.size() * roles_;
  LaneEvaluator evaluator(game_);
  std::vector<std::uint32_t> numbers;
  // Moves line `from` into the place of line `to`, which is not behind it.
  const auto keep = [&](std::size_t from, std::size_t to) {
    if (from == to) return;
    std::copy_n(&lines.rows[from * words], words, &lines.rows[to * words]);
    std::copy_n(&lines.moves[from * all_moves], all_moves, &lines.moves[to * all_moves]);
    lines.given[to] = lines.given[from];
    lines.redraw[to] = lines.redraw[from];
  };
  for (; ply < steps_.size() && lines.count > 0; ++ply) {
    end_if_interrupted();
    evaluator.set_positions(lines.rows, lines.count);
    std::size_t left = 0;
    for (std::size_t at = 0; at < lines.count; ++at) {
      if (evaluator.terminal(at) || !evaluator.is_legal(at, role_, steps_[ply].own)) continue;
      std::uint32_t* const joint = &lines.moves[at * all_moves + ply * roles_];
      bool stuck = false;
      for (std::size_t role = 0; role < roles_ && !stuck; ++role) {
        if (role == role_) {
          joint[role] = steps_[ply].own;
        } else if (ply * roles_ + role >= lines.given[at] || ply == lines.redraw[at] ||
                   !evaluator.is_legal(at, role, joint[role])) {
          evaluator.legal(at, role, numbers);
          stuck = numbers.empty();
          if (!stuck) joint[role] = numbers[random.below(numbers.size())];
        }
      }
      if (!stuck) keep(at, left++);
    }
    lines.count = left;
    for (std::size_t at = 0; at < lines.count; ++at) {
      evaluator.set_joint(at,
                          std::span(lines.moves).subspan(at * all_moves + ply * roles_, roles_));
    }
    evaluator.load(lines.rows, lines.count);
    evaluator.step();
    left = 0;
    for (std::size_t at = 0; at < lines.count; ++at) {
      evaluator.percepts(at, role_, numbers);
      if (numbers != steps_[ply].sees) continue;
      keep(at, left);
      std::ranges::copy(evaluator.next(at), &lines.rows[left * words]);
      ++left;
    }
    lines.count = left;
  }
  for (std::size_t at = 0; at < lines.count && rows_.size() < most_; ++at) {
    const auto row = std::span(lines.rows).subspan(at * words, words);
    Row reached(row.begin(), row.end());
    if (!met_.insert(reached).second) continue;
    rows_.push_back(std::move(reached));
    const auto moves = std::span(lines.moves).subspan(at * all_moves, all_moves);
    pasts_.emplace_back(moves.begin(), moves.end());
  }
}

bool PossiblePasts::go_on(const Step& step, Random& random) {
  steps_.push_back(step);
  const std::vector<Moves> before = std::move(pasts_);
  const std::vector<Row> reached = std::move(rows_);
  pasts_.clear();
  rows_.clear();
  met_.clear();
  const std::size_t last = steps_.size() - 1;
  const std::size_t never = steps_.size();  // nothing is drawn again
  Lines lines;
  // Every past goes on from where it has come, as often as it takes to have many.
  const std::size_t times = std::max<std::size_t>(1, circuit::lanes / before.size());
  begin(lines);
  for (std::size_t i = 0; i < before.size(); ++i) {
    for (std::size_t time = 0; time < times; ++time) {
      add(lines, reached[i], before[i], never);
      if (lines.count < circuit::lanes) continue;
      play(lines, last, random);
      begin(lines);
    }
  }
  play(lines, last, random);
  // Where few are left, new ones from those that fit, or from those of the ply before if none does.
  constexpr std::size_t most_rounds = 16;
  constexpr std::size_t poor_round = circuit::lanes / 64;  // new positions in a round
  std::size_t poor = 0;
  const bool few = rows_.size() < most_ / 2;
  for (std::size_t round = 0; few && round < most_rounds && rows_.size() < most_ && poor < 3;
       ++round) {
    const std::vector<Moves>& from = pasts_.empty() ? before : pasts_;
    begin(lines);
    for (std::size_t i = 0; i < circuit::lanes; ++i) {
      // Some from the start, so that nothing is out of reach.
      constexpr std::size_t one_in = 8;
      const bool anew = i % one_in == 0;
      add(lines, start_, anew ? Moves{} : from[random.below(from.size())],
          anew ? never : random.below(steps_.size()));
    }
    const std::size_t had = rows_.size();
    play(lines, 0, random);
    poor = rows_.size() < had + poor_round && !rows_.empty() ? poor + 1 : 0;
  }
  return !rows_.empty();
}

}  // namespace orchard::explore
