// Alpha-beta as an expert would write it for one game: deeper ply by ply until the time is up, a
// table of positions, the last best move first, then moves that cut elsewhere (history heuristic,
// Schaeffer 1983).
//
// Rules give State with `moves(list)` → count, `after(move)`, `over()`, `result()` at an end and
// `guess()` elsewhere, both for the one to move, `key()`; moves are small numbers.
#pragma once

#include <algorithm>
#include <array>
#include <chrono>
#include <cstdint>
#include <vector>

namespace orchard::bench {

struct SearchReport {
  int depth = 0;  // of the last search that was finished
  std::uint64_t nodes = 0;
  double seconds = 0;
};

template <class State, int most_moves>
class AlphaBeta {
 public:
  static constexpr int certain = 1'000'000;  // results are beyond, guesses within

  AlphaBeta() : table_(table_size) {}

  int choose(const State& root, double seconds, SearchReport& report) {
    begun_ = std::chrono::steady_clock::now();
    seconds_ = seconds;
    nodes_ = 0;
    stopped_ = false;
    history_.fill(0);
    int moves[most_moves];
    const int count = root.moves(moves);
    int best = moves[0];
    if (count == 1) return best;
    report.depth = 0;
    for (int depth = 1; depth <= 64; ++depth) {
      int alpha = -2 * certain;
      int best_here = -1;
      for (int i = 0; i < count; ++i) {
        const int value = -search(root.after(moves[i]), depth - 1, -2 * certain, -alpha);
        if (stopped_) break;
        if (value > alpha) {
          alpha = value;
          best_here = moves[i];
          std::rotate(moves, moves + i, moves + i + 1);
        }
      }
      if (best_here >= 0) best = best_here;
      if (stopped_) break;
      report.depth = depth;
      if (alpha >= certain || alpha <= -certain) break;  // everything is known
      if (depth >= root.most_plies_left()) break;
    }
    report.nodes += nodes_;
    report.seconds += spent();
    return best;
  }

 private:
  struct Entry {
    std::uint64_t key = 0;
    int value = 0;
    std::int16_t move = -1;
    std::int8_t depth = -1;
    std::int8_t bound = 0;  // -1: at most, 1: at least, 0: exactly
  };
  static constexpr std::size_t table_size = std::size_t{1} << 21;

  double spent() const {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun_).count();
  }

  int search(const State& state, int depth, int alpha, int beta) {
    ++nodes_;
    if (state.over()) return state.result() * certain;
    if (depth <= 0) return state.guess();
    if ((nodes_ & 1023) == 0 && spent() > seconds_) stopped_ = true;
    if (stopped_) return 0;
    const std::uint64_t key = state.key();
    Entry& entry = table_[key & (table_size - 1)];
    int first = -1;
    if (entry.key == key && entry.depth >= 0) {
      first = entry.move;
      const bool known = entry.depth >= depth || std::abs(entry.value) >= certain;
      if (known && (entry.bound == 0 || (entry.bound > 0 && entry.value >= beta) ||
                    (entry.bound < 0 && entry.value <= alpha))) {
        return entry.value;
      }
    }
    int moves[most_moves];
    const int count = state.moves(moves);
    const auto rank = [&](int move) {
      return move == first ? ~std::uint64_t{0} : history_[static_cast<std::size_t>(move)];
    };
    for (int i = 1; i < count; ++i) {  // few, so by insertion
      const int move = moves[i];
      int at = i;
      for (; at > 0 && rank(moves[at - 1]) < rank(move); --at) moves[at] = moves[at - 1];
      moves[at] = move;
    }
    const int before = alpha;
    int best = -2 * certain;
    int best_move = moves[0];
    for (int i = 0; i < count; ++i) {
      const int value = -search(state.after(moves[i]), depth - 1, -beta, -alpha);
      if (stopped_) return 0;
      if (value > best) {
        best = value;
        best_move = moves[i];
      }
      alpha = std::max(alpha, best);
      if (alpha >= beta) {
        history_[static_cast<std::size_t>(moves[i])] += 1u << std::min(depth, 20);
        break;
      }
    }
    entry = {key, best, static_cast<std::int16_t>(best_move), static_cast<std::int8_t>(depth),
             static_cast<std::int8_t>(best >= beta     ? 1
                                      : best <= before ? -1
                                                       : 0)};
    return best;
  }

  std::vector<Entry> table_;
  std::array<std::uint64_t, most_moves> history_{};
  std::chrono::steady_clock::time_point begun_;
  double seconds_ = 1;
  std::uint64_t nodes_ = 0;
  bool stopped_ = false;
};

}  // namespace orchard::bench
