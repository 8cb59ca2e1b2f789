// The table of tokens, and who plays by it.
#include <fmt/core.h>

#include <algorithm>

#include "base/json.hpp"
#include "match/table_file.hpp"
#include "orchard/learn.hpp"
#include "orchard/random.hpp"

namespace orchard {

bool TokenTable::Entry::is_hopeless() const {
  return std::ranges::all_of(tokens, [](const auto& entry) { return entry.second <= 0; });
}

TokenTable::TokenTable(const Game& game, Role role, TokenRules rules)
    : rules_(rules), rows_(game, std::move(role), rules.initial, rules.alike) {}

std::vector<TokenTable::Entry> TokenTable::entries() const {
  std::vector<Entry> result;
  for (auto& [position, row] : rows_.entries()) result.push_back({position, row});
  return result;
}

std::int64_t TokenTable::tokens(const Position& position, const Move& move) const {
  return rows_.number(position, move, 0);
}

Diagnostics TokenTable::merge(const TokenTable& other) {
  Diagnostics faults;
  if (other.role() != role() || other.rows_.game().digest() != rows_.game().digest() ||
      other.rules_.initial != rules_.initial || other.rules_.alike != rules_.alike) {
    faults.add(plain_error("other-table", "the tables are of different rules, roles or beginnings",
                           "merge tables that were learnt alike"));
    return faults;
  }
  rows_.merge(other.rows_, [&](std::int64_t own, std::int64_t others) {
    return std::max<std::int64_t>(0, own + others - rules_.initial);
  });
  games_ += other.games_;
  return faults;
}

std::string TokenTable::to_json() const {
  const Json own = {{"initial", rules_.initial},
                    {"win", rules_.win},
                    {"draw", rules_.draw},
                    {"loss", rules_.loss},
                    {"alike", rules_.alike}};
  return table_file::text_of(rows_, games_, own, "tokens");
}

Result<TokenTable> TokenTable::from_json(const Game& game, const std::string& text) {
  return table_file::read<TokenTable>(game, text, [&](const Json& document, const Role& role) {
    TokenTable table(
        game, role,
        {document.at("initial").get<std::int64_t>(), document.at("win").get<std::int64_t>(),
         document.at("draw").get<std::int64_t>(), document.at("loss").get<std::int64_t>(),
         document.value("alike", false)});
    table.games_ = document.at("games").get<std::uint64_t>();
    table_file::read_rows(document, "tokens", table.rows_);
    return table;
  });
}

class TokenPlayer : public Opponent {
 public:
  TokenPlayer(std::shared_ptr<TokenTable> table, std::uint64_t seed, bool learning)
      : table_(std::move(table)), random_(seed), learning_(learning) {}
  std::string name() const override { return "tokens"; }

  Move choose(const Situation& at) override {
    if (at.ply < last_ply_) chosen_.clear();  // another match, or moves were taken back
    last_ply_ = at.ply;
    if (at.legal.size() == 1) return at.legal.front();
    const auto kept = table_->rows_.as_kept(at.position, at.legal);
    const auto& row = table_->rows_.row(kept);
    std::vector<std::uint64_t> tokens;
    std::uint64_t all = 0;
    for (const Move& move : kept.moves) {
      const auto found = row.find(move.to_string());
      tokens.push_back(
          found == row.end() || found->second < 0 ? 0 : static_cast<std::uint64_t>(found->second));
      all += tokens.back();
    }
    if (all == 0) {
      // Nothing is left here: the move that led here was bad too, and what comes now is chance.
      if (learning_ && !hopeless_ && !chosen_.empty()) {
        add_to_last(-1);
      }
      hopeless_ = true;
    }
    std::size_t choice = 0;
    if (all == 0) {
      choice = random_.below(at.legal.size());
    } else {
      std::uint64_t draw = random_.below(all);
      while (draw >= tokens[choice]) draw -= tokens[choice++];
    }
    if (!hopeless_) chosen_.emplace_back(kept.position, kept.moves[choice].to_string());
    return at.legal[choice];
  }

  void match_ended(const Game& game, const Role& role, const Position& last) override {
    if (learning_) {
      ++table_->games_;
      const std::int64_t gained = gain(outcome_of(game, last).standing(role));
      if (!chosen_.empty() && !hopeless_) add_to_last(gained);
    }
    chosen_.clear();
    hopeless_ = false;
    last_ply_ = 0;
  }

 private:
  std::int64_t gain(Standing standing) const {
    const TokenRules& rules = table_->rules();
    switch (standing) {
      case Standing::won:
        return rules.win;
      case Standing::drawn:
      case Standing::scored:
        return rules.draw;
      case Standing::lost:
        return rules.loss;
      case Standing::stuck:
      case Standing::none:
        break;
    }
    return 0;
  }
  // To the move chosen last. A row that somebody else took away is left alone.
  void add_to_last(std::int64_t tokens) {
    const auto& [position, move] = chosen_.back();
    auto* const row = table_->rows_.find(position);
    if (row == nullptr) return;
    std::int64_t& have = (*row)[move];
    have = std::max<std::int64_t>(0, have + tokens);
  }

  std::shared_ptr<TokenTable> table_;
  Random random_;
  bool learning_;
  bool hopeless_ = false;
  std::uint64_t last_ply_ = 0;
  std::vector<std::pair<Position, std::string>> chosen_;  // positions with tokens, and the move
};

std::unique_ptr<Opponent> token_player(std::shared_ptr<TokenTable> table, std::uint64_t seed,
                                       bool learning) {
  return std::make_unique<TokenPlayer>(std::move(table), seed, learning);
}

}  // namespace orchard
