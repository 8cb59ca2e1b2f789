// The JSON forms of the command contract.
#pragma once

#include <nlohmann/json.hpp>

#include "orchard/game.hpp"
#include "orchard/line.hpp"
#include "orchard/view.hpp"

namespace orchard::cli {

using Json = nlohmann::ordered_json;

// One document and a line break on standard output; invalid UTF-8 in names is replaced.
void print_json(const Json& document, int indent = -1);

Json to_json(const Diagnostics& diagnostics);

// The joint moves: [{role: move, …}, …].
Json line_json(const Game& game, const Line& line);
Json fluents_json(const Position& position);
Json legal_json(const Game& game, const Position& position);  // role → moves
// Role → value; an array if several are derived, absent if none is. Chance has no goal.
Json goals_json(const Game& game, const std::vector<std::vector<Term>>& values);
Json goals_json(const Game& game, const Position& position);

// Leaves in a document of a position what a role can know, and says so in "view". At an end all
// stays.
void narrow_to_view(Json& document, const View& view);

}  // namespace orchard::cli
