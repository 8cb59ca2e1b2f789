// The ladder of opponents. What they have in common: the position they look at (or, with hidden
// information, some that fit), numbers for moves, and a random choice among the best.
#include <fmt/core.h>

#include <algorithm>
#include <charconv>
#include <chrono>

#include "base/similar.hpp"
#include "opponents/features.hpp"
#include "opponents/look_ahead.hpp"
#include "opponents/tree_search.hpp"
#include "orchard/opponent.hpp"
#include "orchard/random.hpp"
#include "orchard/solve.hpp"

namespace orchard {
namespace {

using explore::GameTree;
using explore::Node;
using explore::Row;
using opponents::Features;
using opponents::LookAhead;
using opponents::SearchLimit;
using opponents::TreeSearch;

constexpr std::size_t positions_drawn = 16;      // with hidden information
constexpr std::size_t most_positions = 300'000;  // that a look-ahead may work out for one move

// Judges each legal move by a number and takes the best, at random among equals.
class JudgingOpponent : public Opponent {
 public:
  explicit JudgingOpponent(std::uint64_t seed) : random_(seed) {}

  Move choose(const Situation& situation) final {
    if (situation.legal.size() == 1) return situation.legal.front();
    prepare(situation.game);
    std::vector<double> worth(situation.legal.size(), 0);
    draws_ = false;
    bool any = false;
    if (tree_) {
      for (const Row& row : rows_to_look_at(situation)) {
        any = judge_position(situation, row, worth) || any;
      }
    }
    if (!any) return situation.legal[random_.below(situation.legal.size())];
    if (draws_) return situation.legal[drawn(worth)];
    constexpr double same = 1e-12;
    const double best = *std::ranges::max_element(worth);
    std::vector<std::size_t> equals;
    for (std::size_t i = 0; i < worth.size(); ++i) {
      if (worth[i] >= best - same) equals.push_back(i);
    }
    return situation.legal[equals[random_.below(equals.size())]];
  }

 protected:
  // A number for each of the role's legal moves in a position, in the order of the circuit; empty
  // if it cannot be judged.
  virtual std::vector<double> judge(const Row& row, std::size_t role, std::size_t positions) = 0;
  // What `judge` gives is how often to make each move, to be drawn by.
  void draw_by_worth() { draws_ = true; }
  // The tree is about to go: another game is to be played.
  virtual void forget_tree() {}
  GameTree& tree() { return *tree_; }
  const Features& features() {
    if (!features_) features_ = std::make_unique<Features>(*tree_);
    return *features_;
  }
  Random& random() { return random_; }

 private:
  void prepare(const Game& game) {
    const GameCore* const core = GameAccess::core(game).get();
    if (core == game_.get()) return;
    features_.reset();
    forget_tree();
    tree_.reset();
    game_ = GameAccess::core(game);
    tree_ = GameTree::make(game);
  }

  // Drawn in proportion; what is hardly ever to be made is not made at all.
  std::size_t drawn(std::vector<double> shares) {
    constexpr double hardly = 0.02;  // of the whole
    double all = 0;
    for (const double share : shares) all += share;
    double kept = 0;
    for (double& share : shares) {
      if (share < hardly * all) share = 0;
      kept += share;
    }
    constexpr std::uint64_t fine = 1u << 30;
    double draw = kept * static_cast<double>(random_.below(fine)) / fine;
    std::size_t last = 0;
    for (std::size_t i = 0; i < shares.size(); ++i) {
      if (shares[i] == 0) continue;
      last = i;
      if (draw < shares[i]) break;
      draw -= shares[i];
    }
    return last;
  }

  std::vector<Row> rows_to_look_at(const Situation& situation) {
    std::vector<Row> rows;
    if (situation.view == nullptr) {
      if (auto row = tree_->row_of(situation.position)) rows.push_back(std::move(*row));
      return rows;
    }
    for (const Position& position : situation.view->some(positions_drawn, random_.below(~0ULL))) {
      if (auto row = tree_->row_of(position)) rows.push_back(std::move(*row));
    }
    return rows;
  }

  bool judge_position(const Situation& situation, const Row& row, std::vector<double>& worth) {
    const std::size_t role = situation.role.index();
    const std::size_t positions = situation.view == nullptr ? 1 : positions_drawn;
    const Node node = tree_->node(row);
    if (node.over) return false;
    const std::vector<double> judged = judge(row, role, positions);
    if (judged.empty()) return false;
    for (std::size_t i = 0; i < situation.legal.size(); ++i) {
      const auto number = tree_->move_number(role, situation.legal[i]);
      if (!number) continue;
      const auto at = std::ranges::find(node.legal[role], *number);
      if (at == node.legal[role].end()) continue;
      worth[i] += judged[static_cast<std::size_t>(at - node.legal[role].begin())];
    }
    return true;
  }

  Random random_;
  bool draws_ = false;
  std::shared_ptr<const GameCore> game_;
  std::unique_ptr<GameTree> tree_;
  std::unique_ptr<Features> features_;
};

std::vector<double> as_numbers(const std::vector<float>& values) {
  return {values.begin(), values.end()};
}

// What `Features` says right after the move, for whatever the others do.
std::vector<float> greedy_values(GameTree& tree, const Features& features, const Row& row,
                                 std::size_t role) {
  LookAhead look(tree, role, [&](std::span<const Row> rows, std::span<const Node> nodes) {
    std::vector<float> worth;
    for (std::size_t i = 0; i < rows.size(); ++i) {
      worth.push_back(features.judge(rows[i], nodes[i], role));
    }
    return worth;
  });
  return look.values(row, 1, most_positions);
}

class GreedyOpponent : public JudgingOpponent {
 public:
  using JudgingOpponent::JudgingOpponent;
  std::string name() const override { return "greedy"; }

 protected:
  std::vector<double> judge(const Row& row, std::size_t role, std::size_t) override {
    return as_numbers(greedy_values(tree(), features(), row, role));
  }
};

// Exact for three plies; what then looks alike is told apart as a greedy one would.
class CarefulOpponent : public JudgingOpponent {
 public:
  using JudgingOpponent::JudgingOpponent;
  std::string name() const override { return "careful"; }

 protected:
  std::vector<double> judge(const Row& row, std::size_t role, std::size_t positions) override {
    LookAhead look(tree(), role, [](std::span<const Row> rows, std::span<const Node>) {
      return std::vector<float>(rows.size(), 0.5F);
    });
    for (int plies = 3; plies > 0; --plies) {
      const auto values = look.values(row, plies, most_positions / positions);
      if (values.empty()) continue;
      std::vector<double> worth = as_numbers(values);
      const auto greedy = greedy_values(tree(), features(), row, role);
      constexpr double beside = 1e-6;
      for (std::size_t i = 0; i < greedy.size(); ++i) {
        worth[i] += beside * static_cast<double>(greedy[i]);
      }
      return worth;
    }
    return {};
  }
};

// As far as plies say, or as time lets it: a ply deeper again and again, as long as the next one is
// expected to end in time.
class LookAheadOpponent : public JudgingOpponent {
 public:
  LookAheadOpponent(std::uint64_t seed, int plies) : JudgingOpponent(seed), plies_(plies) {}
  LookAheadOpponent(std::uint64_t seed, double seconds)
      : JudgingOpponent(seed), seconds_(seconds) {}
  std::string name() const override {
    return seconds_ > 0 ? fmt::format("lookahead:{}s", seconds_)
                        : fmt::format("lookahead:{}", plies_);
  }

 protected:
  std::vector<double> judge(const Row& row, std::size_t role, std::size_t positions) override {
    LookAhead look(tree(), role, [&](std::span<const Row> rows, std::span<const Node>) {
      return likely(rows, role);
    });
    if (seconds_ > 0) return in_time(look, row, seconds_ / static_cast<double>(positions));
    for (int plies = plies_; plies > 0; --plies) {
      const auto values = look.values(row, plies, most_leaves / positions);
      if (!values.empty()) return as_numbers(values);
    }
    return {};
  }

 private:
  std::vector<float> likely(std::span<const Row> rows, std::size_t role) {
    constexpr std::size_t games = 16;  // a leaf
    std::vector<Row> many;
    for (const Row& next : rows) many.insert(many.end(), games, next);
    const std::vector<float> shares = tree().play(many, random());
    std::vector<float> worth(rows.size(), 0);
    for (std::size_t i = 0; i < many.size(); ++i) {
      worth[i / games] += shares[i * tree().roles() + role] / games;
    }
    // What is only likely is worth less than what is certain.
    for (float& next : worth) next = 0.02F + 0.96F * next;
    return worth;
  }

  static std::vector<double> in_time(LookAhead& look, const Row& row, double seconds) {
    constexpr std::size_t most_in_time = 5'000'000;  // leaves
    constexpr int deepest = 60;
    const auto begun = std::chrono::steady_clock::now();
    const auto spent = [&] {
      return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
    };
    std::vector<double> result;
    double last = 0;      // seconds of the last depth
    double growth = 4.0;  // of that from ply to ply
    for (int plies = 1; plies <= deepest; ++plies) {
      const double before = spent();
      if (plies > 1 && before + last * growth > seconds) break;
      const auto values = look.values(row, plies, most_in_time);
      if (values.empty()) break;
      const bool same = plies > 2 && as_numbers(values) == result;
      result = as_numbers(values);
      const double took = spent() - before;
      if (last > 1e-4) growth = std::clamp(took / last, 1.5, 40.0);
      last = took;
      if (same && took < 1e-4) break;  // everything is known
    }
    return result;
  }

  static constexpr std::size_t most_leaves = 60'000;
  int plies_ = 3;
  double seconds_ = 0;  // instead, if not 0
};

class PlayoutsOpponent : public JudgingOpponent {
 public:
  PlayoutsOpponent(std::uint64_t seed, SearchLimit limit) : JudgingOpponent(seed), limit_(limit) {}
  std::string name() const override {
    return limit_.seconds > 0 ? fmt::format("playouts:{}s", limit_.seconds)
                              : fmt::format("playouts:{}", limit_.playouts);
  }

 protected:
  std::vector<double> judge(const Row& row, std::size_t role, std::size_t positions) override {
    SearchLimit share = limit_;
    share.playouts = std::max<std::uint64_t>(1, limit_.playouts / positions);
    share.seconds = limit_.seconds / static_cast<double>(positions);
    if (!search_ || positions > 1) search_ = std::make_unique<TreeSearch>(tree().lanes());
    const auto judged = search_->run(row, role, share, random());
    const bool mixes = search_->mixes();
    if (positions > 1) search_.reset();
    if (!mixes) return worth_of(judged);
    draw_by_worth();
    std::vector<double> mix;
    for (const TreeSearch::Judged& move : judged) mix.push_back(move.mix);
    return mix;
  }

  void forget_tree() override { search_.reset(); }

 private:
  // The most tried move is the best, unless another is known to be worth as much as it seems to be;
  // the mean tells equals apart.
  static std::vector<double> worth_of(const std::vector<TreeSearch::Judged>& judged) {
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

  std::unique_ptr<TreeSearch> search_;  // of the last move, if the position was known
  SearchLimit limit_;
};

// Best play where it can be worked out from here; tree search where it cannot.
class PerfectOpponent : public Opponent {
 public:
  explicit PerfectOpponent(std::uint64_t seed)
      : random_(seed), otherwise_(random_.below(~0ULL), SearchLimit{}) {}
  std::string name() const override { return "perfect"; }

  Move choose(const Situation& situation) override {
    if (situation.legal.size() == 1) return situation.legal.front();
    if (situation.view != nullptr) return otherwise_.choose(situation);
    std::vector<GoodMove> best;
    if (solution_) best = solution_->best(situation.position, situation.role);
    if (best.empty() && !too_large(situation)) best = solved_from(situation);
    if (best.empty()) return otherwise_.choose(situation);
    if (best.size() > 1 && !solution_->mixes()) return hardest(situation, best);
    constexpr std::uint64_t fine = 1u << 30;
    double draw = static_cast<double>(random_.below(fine)) / fine;
    for (const GoodMove& move : best) {
      draw -= move.share;
      if (draw < 0) return move.move;
    }
    return best.back().move;
  }

 private:
  // Tried again only when the game has come some way.
  bool too_large(const Situation& situation) const {
    constexpr std::uint64_t some_way = 2;
    return failed_at_ && situation.ply >= *failed_at_ && situation.ply < *failed_at_ + some_way;
  }
  std::vector<GoodMove> solved_from(const Situation& situation) {
    constexpr std::uint64_t most = 300'000;  // positions
    SolveOptions options;
    options.from = situation.position;
    options.budget.positions = most;
    const auto solution = solve(situation.game, options);
    if (!solution || !solution->complete()) {
      failed_at_ = situation.ply;
      return {};
    }
    solution_ = *solution;
    failed_at_.reset();
    return solution_->best(situation.position, situation.role);
  }

  // Of moves that are worth the same under best play, the one after which random play goes best: it
  // gives the others the most chances to go wrong.
  Move hardest(const Situation& situation, const std::vector<GoodMove>& best) {
    const auto tree = GameTree::make(situation.game);
    std::vector<Row> rows;
    constexpr std::size_t games = 64;  // a move
    for (const GoodMove& good : best) {
      const auto joint = situation.game.joint_move(situation.position, situation.role, good.move);
      const auto next = joint ? situation.game.next(situation.position, *joint)
                              : Result<Position>(joint.diagnostics());
      const auto row = next ? tree->row_of(*next) : std::nullopt;
      if (!row) return best[random_.below(best.size())].move;
      rows.insert(rows.end(), games, *row);
    }
    const std::vector<float> shares = tree->play(rows, random_);
    std::vector<double> worth(best.size(), 0);
    for (std::size_t i = 0; i < rows.size(); ++i) {
      worth[i / games] += static_cast<double>(shares[i * tree->roles() + situation.role.index()]);
    }
    return best[static_cast<std::size_t>(std::ranges::max_element(worth) - worth.begin())].move;
  }

  Random random_;
  PlayoutsOpponent otherwise_;
  std::optional<Solution> solution_;
  std::optional<std::uint64_t> failed_at_;  // ply
};

Diagnostic unknown(std::string_view who, std::string remedy) {
  return plain_error("unknown-opponent", fmt::format("there is no opponent {}", who),
                     std::move(remedy));
}

std::string all_names() {
  std::string list;
  for (const std::string& name : opponent_names()) list += (list.empty() ? "" : ", ") + name;
  return list;
}

// A whole number, or none.
std::optional<std::uint64_t> whole(std::string_view text) {
  std::uint64_t value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
  return value;
}

// "0.5s" as a number of seconds, or none.
std::optional<double> seconds_of(std::string_view text) {
  const std::string number(text.substr(0, text.size() - 1));
  char* end = nullptr;
  const double seconds = std::strtod(number.c_str(), &end);
  const bool right = !number.empty() && *end == '\0' && seconds > 0 && seconds < 1e6;
  return right ? std::optional(seconds) : std::nullopt;
}

}  // namespace

std::vector<std::string> opponent_names() {
  return {
      "random", "greedy", "careful", "lookahead[:PLIES|:SECONDSs]", "playouts[:COUNT|:SECONDSs]",
      "perfect"};
}

Result<std::unique_ptr<Opponent>> make_opponent(std::string_view who, std::uint64_t seed) {
  const std::size_t colon = who.find(':');
  const std::string_view name = who.substr(0, colon);
  const std::string_view more = colon == std::string_view::npos ? "" : who.substr(colon + 1);
  const bool given = colon != std::string_view::npos;
  if (name == "random" && !given) return random_opponent(seed);
  if (name == "greedy" && !given) {
    return std::unique_ptr<Opponent>(std::make_unique<GreedyOpponent>(seed));
  }
  if (name == "careful" && !given) {
    return std::unique_ptr<Opponent>(std::make_unique<CarefulOpponent>(seed));
  }
  if (name == "perfect" && !given) {
    return std::unique_ptr<Opponent>(std::make_unique<PerfectOpponent>(seed));
  }
  if (name == "lookahead" && given && more.ends_with('s')) {
    const auto seconds = seconds_of(more);
    if (!seconds) return unknown(who, "write lookahead:SECONDSs, as lookahead:0.5s");
    return std::unique_ptr<Opponent>(std::make_unique<LookAheadOpponent>(seed, *seconds));
  }
  if (name == "lookahead") {
    const auto plies = given ? whole(more) : std::optional<std::uint64_t>(3);
    if (!plies || *plies < 1 || *plies > 100)
      return unknown(who, "write lookahead:PLIES, 1 to 100");
    return std::unique_ptr<Opponent>(
        std::make_unique<LookAheadOpponent>(seed, static_cast<int>(*plies)));
  }
  if (name == "playouts") {
    SearchLimit limit;
    if (given && more.find('/') != std::string::npos) {
      std::string t(more);
      unsigned g = 1, fpu = 0;
      double sec = 0, e = 0.7;
      sscanf(t.c_str(), "%lfs/%u/%lf/%u", &sec, &g, &e, &fpu);
      limit.seconds = sec;
      limit.games_a_leaf = g;
      limit.exploration = e;
      limit.fpu = fpu;
    } else if (given && more.ends_with('s')) {
      const auto seconds = seconds_of(more);
      if (!seconds) return unknown(who, "write playouts:SECONDSs, as playouts:0.5s");
      limit.seconds = *seconds;
    } else if (given) {
      const auto count = whole(more);
      if (!count || *count < 1) return unknown(who, "write playouts:COUNT or playouts:SECONDSs");
      limit.playouts = *count;
    }
    return std::unique_ptr<Opponent>(std::make_unique<PlayoutsOpponent>(seed, limit));
  }
  const std::vector<std::string> names = {"random",    "greedy",   "careful",
                                          "lookahead", "playouts", "perfect"};
  const auto meant = most_similar(std::string(name), names);
  return unknown(who, meant ? fmt::format("did you mean {}?", *meant)
                            : fmt::format("there are: {}", all_names()));
}

}  // namespace orchard
