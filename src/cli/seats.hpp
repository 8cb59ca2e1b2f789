// Options of the form ROLE=VALUE: who sits where, and what they are called.
#pragma once

#include <map>
#include <memory>
#include <string>

#include "cli/call.hpp"
#include "orchard/learn.hpp"
#include "orchard/opponent.hpp"

namespace orchard::cli {

// Puts what the call gives over what `values` has, by role. Fails if a role is none of the game's.
Diagnostics assign_to_roles(const Call& call, const Game& game, const std::string& option,
                            std::map<std::string, std::string>& values);

// A table of tokens from a file; fails with `cannot-read` or as TokenTable::from_json.
Result<TokenTable> read_token_table(const Game& game, const std::string& file);

// As make_opponent, and learned:FILE for a table of tokens.
Result<std::unique_ptr<Opponent>> opponent_of(const Game& game, const std::string& who,
                                              std::uint64_t seed);

}  // namespace orchard::cli
