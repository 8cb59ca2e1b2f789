// Options of the form ROLE=VALUE: who sits where, and what they are called.
#pragma once

#include <map>
#include <memory>
#include <string>

#include "cli/call.hpp"
#include "orchard/learn_values.hpp"
#include "orchard/opponent.hpp"

namespace orchard::cli {

// Puts what the call gives over what `values` has, by role. Fails if a role is none of the game's.
Diagnostics assign_to_roles(const Call& call, const Game& game, const std::string& option,
                            std::map<std::string, std::string>& values);

// The text of a learnt table; fails with `cannot-read`.
Result<std::string> read_table(const std::string& file);

inline constexpr std::string_view learned_prefix = "learned:";

// As make_opponent, and learned:FILE for a learnt table.
Result<std::unique_ptr<Opponent>> opponent_of(const Game& game, const std::string& who,
                                              std::uint64_t seed);

}  // namespace orchard::cli
