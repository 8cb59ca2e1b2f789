// Which moves are waiting moves, found by watching play.
//
// A move counts as waiting if, at the start and on sampled lines of play, it was its role's only
// legal move whenever it was legal, and at least once while another role had a choice: a move that
// is forced each time it can be made, with nobody else to choose, is played, not waited. Sampling
// is the definition here, not an approximation of one: what it says must be the same in every run,
// so the seed and the amounts are fixed. The lines end early once enough positions were seen;
// without a circuit that is soon, since the reference evaluator is slow on large descriptions.
#include <algorithm>

#include "base/interruption.hpp"
#include "circuit/lanes/pieces.hpp"
#include "game/core.hpp"
#include "game/lane_evaluator.hpp"
#include "game/random_line.hpp"

namespace orchard {
namespace {

constexpr std::uint64_t seed = 1;
constexpr std::size_t most_lines = 1000;
constexpr std::size_t most_positions = 50'000;
constexpr std::size_t most_by_reference = 2000;  // without a circuit
// … and rows that the reference evaluator looks at, so that large descriptions begin to play in
// seconds.
constexpr std::uint64_t most_reference_work = 30'000'000;
constexpr std::uint64_t most_plies = 1000;       // of one line
constexpr std::size_t most_moves = 20'000'000;   // legal ones, all together

// What was seen of the moves of one role, `Move` a number or a term.
template <class Move>
struct Seen {
  absl::flat_hash_set<Move> alone;            // as the only legal move
  absl::flat_hash_set<Move> in_company;       // beside another one
  absl::flat_hash_set<Move> beside_a_choice;  // alone while another role had a choice

  bool waits(const Move& move) const {
    return !in_company.contains(move) && beside_a_choice.contains(move);
  }
};

template <class Move>
void look(const std::vector<std::vector<Move>>& legal, std::vector<Seen<Move>>& seen) {
  const bool choice = std::ranges::any_of(legal, [](const auto& of) { return of.size() > 1; });
  for (std::size_t role = 0; role < legal.size(); ++role) {
    if (legal[role].size() != 1) {
      seen[role].in_company.insert(legal[role].begin(), legal[role].end());
      continue;
    }
    seen[role].alone.insert(legal[role].front());
    if (choice) seen[role].beside_a_choice.insert(legal[role].front());
  }
}

// Lines side by side.
std::vector<Seen<std::uint32_t>> sample(const LaneGame& game) {
  const std::size_t roles = game.ground().moves().size();
  std::vector<Seen<std::uint32_t>> seen(roles);
  LaneEvaluator evaluator(game);
  const std::size_t words = evaluator.words();
  const std::vector<std::uint64_t> start = game.row(game.ground().initial());
  std::vector<std::vector<std::uint32_t>> legal(roles);
  std::vector<std::uint32_t> joint(roles);
  std::size_t positions = 0;
  std::size_t moves_seen = 0;
  Random random(seed);
  InterruptionPoint interruption(16);
  circuit::each_piece(most_lines, [&](std::size_t, std::size_t lines) {
    std::vector<std::uint64_t> rows;
    for (std::size_t line = 0; line < lines; ++line) {
      rows.insert(rows.end(), start.begin(), start.end());
    }
    const auto enough = [&] { return positions >= most_positions || moves_seen >= most_moves; };
    for (std::uint64_t ply = 0; ply <= most_plies && lines > 0 && !enough(); ++ply) {
      positions += lines;
      evaluator.set_positions(rows, lines);
      std::vector<std::size_t> going_on;
      for (std::size_t line = 0; line < lines; ++line) {
        if (evaluator.terminal(line)) continue;
        for (std::size_t role = 0; role < roles; ++role) {
          evaluator.legal(line, role, legal[role]);
        }
        interruption.pass();
        look(legal, seen);
        for (const auto& moves : legal) moves_seen += moves.size();
        if (std::ranges::any_of(legal, [](const auto& moves) { return moves.empty(); })) continue;
        for (std::size_t role = 0; role < roles; ++role) {
          joint[role] = legal[role][random.below(legal[role].size())];
        }
        evaluator.set_joint(line, joint);
        going_on.push_back(line);
      }
      evaluator.step();
      for (std::size_t i = 0; i < going_on.size(); ++i) {
        std::ranges::copy(evaluator.next(going_on[i]),
                          rows.begin() + static_cast<std::ptrdiff_t>(i * words));
      }
      lines = going_on.size();
    }
    return !enough();
  });
  return seen;
}

}  // namespace

bool GameCore::is_waiting(std::size_t role, TermId move) const {
  std::call_once(waiting_once_, [this] { sample_waiting_moves(); });
  return waiting_[role].contains(move);
}

void GameCore::sample_waiting_moves() const {
  waiting_.assign(roles_.size(), {});
  if (const LaneGame* const game = lanes()) {
    const auto seen = sample(*game);
    for (std::size_t role = 0; role < seen.size(); ++role) {
      for (const std::uint32_t move : seen[role].alone) {
        if (!seen[role].waits(move)) continue;
        waiting_[role].insert(game->ground().moves()[role][move].term);
      }
    }
    return;
  }
  std::vector<Seen<TermId>> seen(roles_.size());
  Random random(seed);
  std::size_t positions = 0;
  try {
    Lease evaluator(*this);
    const std::uint64_t before = evaluator->reference_work();
    const auto enough = [&] {
      return positions >= most_by_reference ||
             evaluator->reference_work() - before >= most_reference_work;
    };
    for (std::size_t line = 0; line < most_lines && !enough(); ++line) {
      random_line(*evaluator, program_->initial(), random, most_plies, [&](const LinePosition& at) {
        ++positions;
        look(*at.legal, seen);
        return !enough();
      });
    }
  } catch (const logic::LimitExceeded&) {
    // What was seen until then counts.
  }
  for (std::size_t role = 0; role < seen.size(); ++role) {
    for (const TermId move : seen[role].alone) {
      if (seen[role].waits(move)) waiting_[role].insert(move);
    }
  }
}

}  // namespace orchard
