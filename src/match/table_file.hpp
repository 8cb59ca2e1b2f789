// The files of learnt tables: a document with the rules, the role and what the kind of table adds,
// and one entry a position.
#pragma once

#include <fmt/core.h>

#include <algorithm>
#include <string>
#include <utility>

#include "base/json.hpp"
#include "orchard/learnt_rows.hpp"

namespace orchard::table_file {

// `own`: what the kind of table adds. `name`: what it calls the numbers of a position.
template <class Number>
std::string text_of(const LearntRows<Number>& rows, std::uint64_t games, const Json& own,
                    const char* name) {
  Json document = {{"version", 1},
                   {"rules", rows.game().digest()},
                   {"role", rows.role().name()},
                   {"games", games}};
  document.update(own);
  Json& positions = document["positions"] = Json::array();
  for (const auto& [position, row] : rows.entries()) {
    Json fluents = Json::array();
    for (const Term& fluent : position.fluents()) fluents.push_back(fluent.to_string());
    positions.push_back({{"position", std::move(fluents)}, {name, row}});
  }
  return json_text(document, 1) + "\n";
}

// Thrown by read_rows where a position or a move does not read; `read` gives it back.
struct BadPosition {
  Diagnostics diagnostics;
};

inline Diagnostics damaged(const std::string& move) {
  Diagnostics result;
  result.add(plain_error("bad-table", fmt::format("`{}` is no legal move of its position", move),
                         "the file is damaged: give one that learn has written"));
  return result;
}

template <class Number>
void read_rows(const Json& document, const char* name, LearntRows<Number>& rows) {
  for (const Json& entry : document.at("positions")) {
    std::vector<Term> fluents;
    for (const Json& fluent : entry.at("position")) {
      const auto term = Term::parse(fluent.get<std::string>());
      if (!term) throw BadPosition{term.diagnostics()};
      fluents.push_back(*term);
    }
    const auto position = rows.game().position(fluents);
    if (!position) throw BadPosition{position.diagnostics()};
    auto row = entry.at(name).get<typename LearntRows<Number>::Row>();
    const std::vector<Move> legal = rows.game().legal(*position, rows.role());
    for (const auto& [move, number] : row) {
      const bool known = std::ranges::any_of(
          legal, [&wanted = move](const Move& one) { return one.to_string() == wanted; });
      if (!known) throw BadPosition{damaged(move)};
    }
    rows.put(*position, std::move(row));
  }
}

// A table of the game's rules: `make` gets the document and the role. Fails with `bad-table`, or
// `other-table`.
template <class Table, class Make>
Result<Table> read(const Game& game, const std::string& text, Make&& make) {
  const auto bad = [](const std::string& why) {
    return plain_error("bad-table", fmt::format("this is not a learnt table: {}", why),
                       "give a file that learn has written");
  };
  const Json document = Json::parse(text, nullptr, false);
  if (document.is_discarded() || !document.is_object()) return bad("it is not a JSON object");
  try {
    if (document.at("version").template get<int>() != 1) return bad("its version is not 1");
    const auto role = game.role(document.at("role").template get<std::string>());
    if (!role || document.at("rules").template get<std::string>() != game.digest()) {
      return plain_error("other-table", "the table was learnt with other rules",
                         "give the description and the sizes it was learnt with");
    }
    return make(document, *role);
  } catch (const Json::exception& fault) {
    return bad(fault.what());
  } catch (const BadPosition& fault) {
    return fault.diagnostics;
  }
}

}  // namespace orchard::table_file
