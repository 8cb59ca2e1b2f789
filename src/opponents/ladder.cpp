// The ladder of opponents. What they have in common: the position they look at (or, with hidden
// information, some that fit), numbers for moves, and a random choice among the best.
#include <fmt/core.h>

#include <algorithm>
#include <charconv>

#include "base/similar.hpp"
#include "opponents/look_ahead.hpp"
#include "opponents/tree_search.hpp"
#include "orchard/opponent.hpp"
#include "orchard/random.hpp"

namespace orchard {
namespace {

using opponents::GameTree;
using opponents::LookAhead;
using opponents::Node;
using opponents::Row;
using opponents::SearchLimit;
using opponents::TreeSearch;

constexpr std::size_t positions_drawn = 16;  // with hidden information
constexpr std::size_t most_positions = 300'000;  // that a look-ahead may work out for one move

// Judges each legal move by a number and takes the best, at random among equals.
class JudgingOpponent : public Opponent {
 public:
  explicit JudgingOpponent(std::uint64_t seed) : random_(seed) {}

  Move choose(const Situation& situation) final {
    if (situation.legal.size() == 1) return situation.legal.front();
    prepare(situation.game);
    std::vector<double> worth(situation.legal.size(), 0);
    bool any = false;
    if (tree_) {
      for (const Row& row : rows_to_look_at(situation)) {
        any = judge_position(situation, row, worth) || any;
      }
    }
    if (!any) return situation.legal[random_.below(situation.legal.size())];
    constexpr double same = 1e-9;
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
  GameTree& tree() { return *tree_; }
  Random& random() { return random_; }

 private:
  void prepare(const Game& game) {
    const GameCore* const core = GameAccess::core(game).get();
    if (core == game_.get()) return;
    tree_.reset();
    game_ = GameAccess::core(game);
    tree_ = GameTree::make(game);
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
  std::shared_ptr<const GameCore> game_;
  std::unique_ptr<GameTree> tree_;
};

std::vector<double> as_numbers(const std::vector<float>& values) {
  return {values.begin(), values.end()};
}

// The goal right after the move; then things and moves of its own against those of the others.
class GreedyOpponent : public JudgingOpponent {
 public:
  using JudgingOpponent::JudgingOpponent;
  std::string name() const override { return "greedy"; }

 protected:
  std::vector<double> judge(const Row& row, std::size_t role, std::size_t) override {
    find_things();
    LookAhead look(tree(), role, [&](std::span<const Row> rows, std::span<const Node> nodes) {
      std::vector<float> worth;
      for (std::size_t i = 0; i < rows.size(); ++i) {
        // Small beside any difference of goals, which are whole hundredths.
        const float things = balance(rows[i], role);
        const float moves = mobility(nodes[i], role);
        const float goal = nodes[i].shares[role];
        worth.push_back(goal + 0.004F * things + 0.0005F * moves);
      }
      return worth;
    });
    return as_numbers(look.values(row, 1, most_positions));
  }

 private:
  // Which fluents name a role: its things.
  void find_things() {
    if (!things_.empty()) return;
    const auto& ground = tree().lanes().ground();
    things_.assign(tree().roles(), {});
    for (std::uint32_t number = 0; number < ground.fluents().size(); ++number) {
      const Term term = ground.terms().term(ground.fluents()[number].term);
      // Whose turn it is, or a number kept for a role, is no thing on a board.
      if (term.arity() < 2) continue;
      for (std::size_t role = 0; role < things_.size(); ++role) {
        const std::string name =
            ground.terms().text(ground.description().roles()[role]);
        for (const Term& argument : term.arguments()) {
          if (argument.to_string() == name) things_[role].push_back(number);
        }
      }
    }
  }
  // Own things minus the others', squeezed into -1 to 1.
  float balance(const Row& row, std::size_t role) const {
    const auto count = [&](std::size_t of) {
      return std::ranges::count_if(things_[of], [&](std::uint32_t number) {
        return (row[number / 64] >> (number % 64) & 1) != 0;
      });
    };
    std::ptrdiff_t difference = 0;
    std::ptrdiff_t all = 1;
    for (std::size_t of = 0; of < things_.size(); ++of) {
      const std::ptrdiff_t of_role = count(of);
      difference += of == role ? of_role : -of_role;
      all += of_role;
    }
    return static_cast<float>(difference) / static_cast<float>(all);
  }
  // Moves that are left to the others count against, one's own for.
  static float mobility(const Node& node, std::size_t role) {
    float result = 0;
    for (std::size_t of = 0; of < node.legal.size(); ++of) {
      const auto moves = static_cast<float>(node.legal[of].size());
      result += (of == role ? moves : -moves) / (moves + 10);
    }
    return result;
  }

  std::vector<std::vector<std::uint32_t>> things_;
};

// Exact for three plies; what then looks alike is told apart by where games lead from there.
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
      if (!values.empty()) return as_numbers(values);
    }
    return {};
  }
};

class LookAheadOpponent : public JudgingOpponent {
 public:
  LookAheadOpponent(std::uint64_t seed, int plies) : JudgingOpponent(seed), plies_(plies) {}
  std::string name() const override { return fmt::format("lookahead:{}", plies_); }

 protected:
  std::vector<double> judge(const Row& row, std::size_t role, std::size_t positions) override {
    LookAhead look(tree(), role, [&](std::span<const Row> rows, std::span<const Node>) {
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
    });
    for (int plies = plies_; plies > 0; --plies) {
      const auto values = look.values(row, plies, most_leaves / positions);
      if (!values.empty()) return as_numbers(values);
    }
    return {};
  }

 private:
  static constexpr std::size_t most_leaves = 60'000;
  int plies_;
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
    TreeSearch search(tree());
    std::vector<double> worth;
    for (const TreeSearch::Judged& arm : search.run(row, role, share, random())) {
      // The most tried is the best; the mean tells equals apart.
      worth.push_back(static_cast<double>(arm.visits) + 0.5 * arm.mean);
    }
    return worth;
  }

 private:
  SearchLimit limit_;
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

}  // namespace

std::vector<std::string> opponent_names() {
  return {"random", "greedy", "careful", "lookahead[:PLIES]", "playouts[:COUNT|:SECONDSs]"};
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
  if (name == "lookahead") {
    const auto plies = given ? whole(more) : std::optional<std::uint64_t>(3);
    if (!plies || *plies < 1 || *plies > 100) return unknown(who, "write lookahead:PLIES, 1 to 100");
    return std::unique_ptr<Opponent>(
        std::make_unique<LookAheadOpponent>(seed, static_cast<int>(*plies)));
  }
  if (name == "playouts") {
    SearchLimit limit;
    if (given && more.ends_with('s')) {
      const std::string number(more.substr(0, more.size() - 1));
      char* end = nullptr;
      limit.seconds = std::strtod(number.c_str(), &end);
      const bool right = !number.empty() && *end == '\0' && limit.seconds > 0 && limit.seconds < 1e6;
      if (!right) return unknown(who, "write playouts:SECONDSs, as playouts:0.5s");
    } else if (given) {
      const auto count = whole(more);
      if (!count || *count < 1) return unknown(who, "write playouts:COUNT or playouts:SECONDSs");
      limit.playouts = *count;
    }
    return std::unique_ptr<Opponent>(std::make_unique<PlayoutsOpponent>(seed, limit));
  }
  const std::vector<std::string> names = {"random", "greedy", "careful", "lookahead", "playouts"};
  const auto meant = most_similar(std::string(name), names);
  return unknown(who, meant ? fmt::format("did you mean {}?", *meant)
                            : fmt::format("there are: {}", all_names()));
}

}  // namespace orchard
