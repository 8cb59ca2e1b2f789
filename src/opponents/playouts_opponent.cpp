#include "opponents/playouts_opponent.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <chrono>

namespace orchard::opponents {
namespace {

// The most tried move is the best, unless another is known to be worth as much as it seems to be;
// the mean tells equals apart.
std::vector<double> worth_of(const std::vector<TreeSearch::Judged>& judged) {
  const TreeSearch::Judged* tried = nullptr;
  for (const TreeSearch::Judged& arm : judged) {
    if (!arm.proven && (tried == nullptr || arm.visits > tried->visits)) tried = &arm;
  }
  std::vector<double> worth;
  for (const TreeSearch::Judged& arm : judged) {
    constexpr double certain = 1e12;
    const bool good = arm.proven && (tried == nullptr || arm.mean >= tried->mean);
    if (good) {
      worth.push_back(certain * (1 + arm.mean));
    } else if (arm.proven) {
      worth.push_back(arm.mean - 2);  // worse than what is not known
    } else {
      worth.push_back(static_cast<double>(arm.visits) + 0.5 * arm.mean);
    }
  }
  return worth;
}

}  // namespace

std::string PlayoutsOpponent::name() const {
  const std::string amount = limit_.seconds > 0 ? fmt::format("playouts:{}s", limit_.seconds)
                                                : fmt::format("playouts:{}", limit_.playouts);
  return limit_.threads > 1 ? fmt::format("{}/{}", amount, limit_.threads) : amount;
}

void PlayoutsOpponent::forget_tree() {
  search_.reset();
  exact_.reset();
}

// Few games in many positions say more than many games in few: how likely something is matters.
std::size_t PlayoutsOpponent::positions_to_draw() const {
  constexpr std::uint64_t games_each = 10;
  constexpr std::uint64_t most = 200;
  return limit_.seconds > 0 ? most
                            : std::clamp<std::uint64_t>(limit_.playouts / games_each, 1, most);
}

// Where nearly all random games end alike, their results tell moves apart too seldom.
void PlayoutsOpponent::look_over(const std::vector<Row>& rows, std::size_t role) {
  count_length_ = false;
  if (rows.size() < 2) return;
  constexpr std::size_t games = 128;
  constexpr std::ptrdiff_t seldom = 6;  // of them
  std::vector<Row> from;
  for (std::size_t i = 0; i < games; ++i) from.push_back(rows[i % rows.size()]);
  const std::vector<float> shares = tree().play(from, random());
  std::vector<float> own;
  for (std::size_t i = 0; i < games; ++i) own.push_back(shares[i * tree().roles() + role]);
  std::ranges::sort(own);
  const auto usual = std::ranges::count(own, own[games / 2]);
  count_length_ = static_cast<std::ptrdiff_t>(games) - usual < seldom;
}

// One for each move that is proved to be best, 0 for the others; empty where that is not found.
std::vector<double> PlayoutsOpponent::exactly(const Row& row, std::size_t role, double seconds) {
  if (!exact_) exact_ = std::make_unique<solve_inner::ExactSearch>(tree().lanes());
  if (exact_->unsuited()) return {};
  // Ends are too far where random games take long.
  constexpr std::uint64_t far = 24;
  constexpr std::size_t games = 64;
  if (tree().mean_plies(row, games, random()) > far) return {};
  Budget budget;
  budget.seconds = seconds;
  const auto answer = exact_->solve(row, budget);
  if (answer.best.empty() || answer.chooser != role) return {};
  const Node node = tree().node(row);
  std::vector<double> result;
  for (const std::uint32_t move : node.legal[role]) {
    result.push_back(std::ranges::binary_search(answer.best, move) ? 1 : 0);
  }
  return result;
}

TreeSearch& PlayoutsOpponent::search() {
  if (!search_) {
    const std::size_t most = most_bytes().value_or(SearchTree::usual_bytes);
    search_ = std::make_unique<TreeSearch>(tree().lanes(), preferences(), most);
  }
  return *search_;
}

// The tree is gone on with by the next choice.
void PlayoutsOpponent::judge_ahead(const Row& row, std::size_t role) {
  SearchLimit limit = limit_;
  limit.seconds = most_seconds().value_or(limit_.seconds);
  limit.threads = 1;
  (void)search().run(row, role, limit, random());
}

JudgingOpponent::Judgement PlayoutsOpponent::judge(const Row& row, std::size_t role,
                                                   std::size_t positions) {
  SearchLimit share = limit_;
  share.playouts = std::max<std::uint64_t>(1, limit_.playouts / positions);
  share.seconds = limit_.seconds / static_cast<double>(positions);
  if (most_seconds()) {
    share.most_seconds = *most_seconds();
    share.seconds = std::min(share.seconds, share.most_seconds);
  }
  std::vector<double> best;
  if (share.seconds > 0 && positions == 1) {
    constexpr double for_ends = 0.3;  // of the time
    const auto begun = std::chrono::steady_clock::now();
    best = exactly(row, role, for_ends * share.seconds);
    if (std::ranges::count(best, 1.0) == 1) return best;
    const std::chrono::duration<double> spent = std::chrono::steady_clock::now() - begun;
    constexpr double at_least = 0.1;           // of the time, whatever was spent
    constexpr double for_breaking_ties = 0.1;  // of it
    share.seconds = std::max(share.seconds - spent.count(), at_least * share.seconds);
    share.most_seconds = most_seconds() ? share.seconds : 0;
    // Among moves that are worth the same, a short search tells which is the hardest to answer.
    if (!best.empty()) share.seconds = std::min(share.seconds, for_breaking_ties * limit_.seconds);
  }
  share.count_length = count_length_;
  const auto judged = search().run(row, role, share, random());
  std::vector<double> worth;
  if (search_->mixes()) {
    draw_by_worth();
    for (const TreeSearch::Judged& move : judged) worth.push_back(move.mix);
    return worth;
  }
  if (positions > 1) {
    // Of many positions the mean is the likely result. What was not tried in one says nothing
    // there.
    Judgement judgement;
    for (const TreeSearch::Judged& move : judged) {
      const bool known = move.proven || move.visits > 0;
      judgement.worth.push_back(move.proven ? move.mean : known ? uncertain(move.mean) : unknown);
      judgement.certain.push_back(move.proven);
    }
    return judgement;
  }
  worth = worth_of(judged);
  for (std::size_t i = 0; i < best.size(); ++i) {
    if (best[i] == 0) worth[i] = -2;
  }
  return worth;
}

}  // namespace orchard::opponents
