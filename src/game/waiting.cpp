// Which moves are waiting moves, found by watching play.
//
// A move counts as waiting if, at the start and on sampled lines of play, it was its role's only
// legal move whenever it was legal, and at least once while another role had a choice: a move that
// is forced each time it can be made, with nobody else to choose, is played, not waited. Sampling
// is the definition here, not an approximation of one: what it says must be the same in every run,
// so the seed and the amounts are fixed. The lines end early once enough positions were seen, since
// the reference evaluator is slow on large descriptions.
#include "game/core.hpp"
#include "game/random_line.hpp"

namespace orchard {
namespace {

constexpr std::uint64_t seed = 1;
constexpr int most_lines = 1000;
constexpr int most_positions = 2000;
constexpr std::uint64_t most_plies = 1000;  // of one line

}  // namespace

bool GameCore::is_waiting(std::size_t role, TermId move) const {
  std::call_once(waiting_once_, [this] { sample_waiting_moves(); });
  return waiting_[role].contains(move);
}

void GameCore::sample_waiting_moves() const {
  waiting_.assign(roles_.size(), {});
  std::vector<absl::flat_hash_set<TermId>> chosen_freely(roles_.size());
  std::vector<absl::flat_hash_set<TermId>> beside_a_choice(roles_.size());
  Random random(seed);
  int positions = 0;
  try {
    Lease evaluator(*this);
    for (int line = 0; line < most_lines && positions < most_positions; ++line) {
      random_line(*evaluator, program_->initial(), random, most_plies, [&](const LinePosition& at) {
        ++positions;
        const auto& legal = *at.legal;
        const auto has_choice = [](const auto& moves) { return moves.size() > 1; };
        const auto choosing = std::ranges::count_if(legal, has_choice);
        for (std::size_t role = 0; role < legal.size(); ++role) {
          auto& seen = legal[role].size() == 1 ? waiting_[role] : chosen_freely[role];
          seen.insert(legal[role].begin(), legal[role].end());
          if (legal[role].size() == 1 && choosing > 0) {
            beside_a_choice[role].insert(legal[role].front());
          }
        }
        return true;
      });
    }
  } catch (const logic::LimitExceeded&) {
    // What was seen until then counts.
  }
  for (std::size_t role = 0; role < waiting_.size(); ++role) {
    absl::erase_if(waiting_[role], [&](TermId move) {
      return chosen_freely[role].contains(move) || !beside_a_choice[role].contains(move);
    });
  }
}

}  // namespace orchard
