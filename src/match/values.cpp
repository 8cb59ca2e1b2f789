// The table of values, and who plays by it.
#include <fmt/core.h>

#include <algorithm>

#include "base/json.hpp"
#include "match/table_file.hpp"
#include "orchard/learn_values.hpp"
#include "orchard/random.hpp"

namespace orchard {

bool ValueTable::Entry::is_hopeless() const {
  constexpr double nothing = 0.02;
  return std::ranges::all_of(values, [](const auto& entry) { return entry.second <= nothing; });
}

ValueTable::ValueTable(const Game& game, Role role, ValueRules rules)
    : rules_(rules), rows_(game, std::move(role), rules.initial, rules.alike) {}

std::vector<ValueTable::Entry> ValueTable::entries() const {
  std::vector<Entry> result;
  for (auto& [position, row] : rows_.entries()) result.push_back({position, row});
  return result;
}

double ValueTable::value(const Position& position, const Move& move) const {
  return rows_.number(position, move, rules_.initial);
}

Diagnostics ValueTable::merge(const ValueTable& other) {
  Diagnostics faults;
  if (other.role() != role() || other.rows_.game().digest() != rows_.game().digest() ||
      other.rules_.alike != rules_.alike) {
    faults.add(plain_error("other-table", "the tables are of different rules or roles",
                           "merge tables that were learnt alike"));
    return faults;
  }
  rows_.merge(other.rows_, [](double own, double others) { return (own + others) / 2; });
  games_ += other.games_;
  return faults;
}

std::string ValueTable::to_json() const {
  const Json own = {{"kind", "values"},
                    {"step", rules_.step},
                    {"explore", rules_.explore},
                    {"initial", rules_.initial},
                    {"alike", rules_.alike}};
  return table_file::text_of(rows_, games_, own, "values");
}

Result<ValueTable> ValueTable::from_json(const Game& game, const std::string& text) {
  return table_file::read<ValueTable>(game, text, [&](const Json& document, const Role& role) {
    ValueTable table(game, role,
                     {document.at("step").get<double>(), document.at("explore").get<double>(),
                      document.at("initial").get<double>(), document.value("alike", false)});
    table.games_ = document.at("games").get<std::uint64_t>();
    table_file::read_rows(document, "values", table.rows_);
    return table;
  });
}

class ValuePlayer : public Opponent {
 public:
  ValuePlayer(std::shared_ptr<ValueTable> table, std::uint64_t seed, bool learning)
      : table_(std::move(table)), random_(seed), learning_(learning) {}
  std::string name() const override { return "values"; }

  Move choose(const Situation& at) override {
    if (at.ply < last_ply_) chosen_.clear();  // another match, or moves were taken back
    last_ply_ = at.ply;
    if (at.legal.size() == 1) return at.legal.front();
    const auto kept = table_->rows_.as_kept(at.position, at.legal);
    const auto& row = table_->rows_.row(kept);
    std::vector<std::size_t> best;
    double most = -1;
    for (std::size_t i = 0; i < at.legal.size(); ++i) {
      const auto found = row.find(kept.moves[i].to_string());
      const double value = found == row.end() ? table_->rules().initial : found->second;
      if (value < most) continue;
      if (value > most) best.clear();
      most = value;
      best.push_back(i);
    }
    constexpr std::uint64_t fine = 1u << 20;
    const bool tries = learning_ && static_cast<double>(random_.below(fine)) <
                                        table_->rules().explore * static_cast<double>(fine);
    const std::size_t choice =
        tries ? random_.below(at.legal.size()) : best[random_.below(best.size())];
    chosen_.emplace_back(kept.position, kept.moves[choice].to_string());
    return at.legal[choice];
  }

  void match_ended(const Game& game, const Role& role, const Position& last) override {
    const auto goal = game.goal(last, role);
    if (learning_) ++table_->games_;
    // A game that gets stuck teaches nothing.
    if (learning_ && goal && outcome_of(game, last).stuck.empty()) {
      double worth = std::clamp(static_cast<double>(*goal) / 100, 0.0, 1.0);
      for (std::size_t i = chosen_.size(); i-- > 0;) {
        auto& row = *table_->rows_.find(chosen_[i].first);
        double& value = row[chosen_[i].second];
        value += table_->rules().step * (worth - value);
        worth = 0;
        for (const auto& [move, estimate] : row) worth = std::max(worth, estimate);
      }
    }
    chosen_.clear();
    last_ply_ = 0;
  }

 private:
  std::shared_ptr<ValueTable> table_;
  Random random_;
  bool learning_;
  std::uint64_t last_ply_ = 0;
  std::vector<std::pair<Position, std::string>> chosen_;
};

std::unique_ptr<Opponent> value_player(std::shared_ptr<ValueTable> table, std::uint64_t seed,
                                       bool learning) {
  return std::make_unique<ValuePlayer>(std::move(table), seed, learning);
}

Result<std::unique_ptr<Opponent>> learned_player(const Game& game, const std::string& text,
                                                 std::uint64_t seed) {
  const Json document = Json::parse(text, nullptr, false);
  const bool values = document.is_object() && document.value("kind", "") == "values";
  if (values) {
    auto table = ValueTable::from_json(game, text);
    if (!table) return table.diagnostics();
    return value_player(std::make_shared<ValueTable>(std::move(table).value()), seed, false);
  }
  auto table = TokenTable::from_json(game, text);
  if (!table) return table.diagnostics();
  return token_player(std::make_shared<TokenTable>(std::move(table).value()), seed, false);
}

namespace {

template <class Table, class Make>
Result<LearningPlayer> learning_by(const Role& role, Table learnt, std::uint64_t seed,
                                   Make&& make) {
  if (learnt.role() != role) {
    return plain_error(
        "other-role",
        fmt::format("the table is that of {}, not of {}", learnt.role().name(), role.name()),
        "give each role a table of its own");
  }
  auto table = std::make_shared<Table>(std::move(learnt));
  auto opponent = make(table, seed, true);
  return LearningPlayer{std::move(opponent), [table] { return table->to_json(); }};
}

}  // namespace

Result<LearningPlayer> learning_player(const Game& game, const Role& role, const std::string& text,
                                       std::uint64_t seed) {
  if (text.empty()) return learning_by(role, TokenTable(game, role), seed, token_player);
  const Json document = Json::parse(text, nullptr, false);
  if (document.is_object() && document.value("kind", "") == "values") {
    auto table = ValueTable::from_json(game, text);
    if (!table) return table.diagnostics();
    return learning_by(role, std::move(table).value(), seed, value_player);
  }
  auto table = TokenTable::from_json(game, text);
  if (!table) return table.diagnostics();
  return learning_by(role, std::move(table).value(), seed, token_player);
}

}  // namespace orchard
