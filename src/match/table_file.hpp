// What learnt tables have in common: how positions are kept, and their files.
#pragma once

#include <fmt/core.h>

#include <map>
#include <string>
#include <utility>

#include "base/json.hpp"
#include "explore/symmetry/likeness.hpp"
#include "game/lane_game.hpp"
#include "orchard/game.hpp"

namespace orchard::table_file {

// Null if the game has no renamings.
inline std::shared_ptr<const explore::Likeness> likeness_of(const Game& game, bool wanted) {
  const LaneGame* const lanes = GameAccess::core(game)->lanes();
  if (!wanted || lanes == nullptr) return nullptr;
  using Shared = std::shared_ptr<const explore::Likeness>;
  const Shared& likeness =
      lanes->once<Shared>([&] { return std::make_shared<const explore::Likeness>(game); });
  return likeness->renamings() > 0 ? likeness : nullptr;
}

// A position and moves in it as a table keeps them.
inline explore::Likeness::Alike as_kept(const explore::Likeness* likeness, const Game& game,
                                        const Position& position, const Role& role,
                                        const std::vector<Move>& moves) {
  return likeness == nullptr ? explore::Likeness::Alike{position, moves}
                             : likeness->standing_for(game, position, role, moves);
}

inline Json fluents_of(const Position& position) {
  Json fluents = Json::array();
  for (const Term& fluent : position.fluents()) fluents.push_back(fluent.to_string());
  return fluents;
}

// Thrown by read_rows where a position does not read; `read` gives it back.
struct BadPosition {
  Diagnostics diagnostics;
};

// The rows of a table: {"position": […], NAME: {move: number}}.
template <class Row>
void read_rows(const Game& game, const Json& document, const char* name,
               std::map<std::string, std::pair<Position, Row>>& rows) {
  for (const Json& entry : document.at("positions")) {
    std::vector<Term> fluents;
    for (const Json& fluent : entry.at("position")) {
      const auto term = Term::parse(fluent.get<std::string>());
      if (!term) throw BadPosition{term.diagnostics()};
      fluents.push_back(*term);
    }
    const auto position = game.position(fluents);
    if (!position) throw BadPosition{position.diagnostics()};
    rows.emplace(position->to_string(), std::pair(*position, entry.at(name).get<Row>()));
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
