#include "cli/seats.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <fstream>
#include <sstream>

#include "base/similar.hpp"
#include "cli/move_input.hpp"

namespace orchard::cli {

Diagnostics assign_to_roles(const Call& call, const Game& game, const std::string& option,
                            std::map<std::string, std::string>& values) {
  Diagnostics faults;
  std::vector<std::string> roles;
  for (const Role& role : game.roles()) roles.push_back(role.name());
  for (const std::string& text : call.texts(option)) {
    const std::size_t equals = text.find('=');
    std::string role = tidied(text.substr(0, equals));
    if (equals == std::string::npos || std::ranges::find(roles, role) == roles.end()) {
      std::string list;
      for (const std::string& name : roles) list += (list.empty() ? "" : ", ") + name;
      const auto meant = most_similar(role, roles);
      faults.add(
          plain_error("wrong-call", fmt::format("--{} {}: there is no such role", option, text),
                      meant ? fmt::format("did you mean {}?", *meant)
                            : fmt::format("write --{} ROLE=…; the roles are {}", option, list)));
      continue;
    }
    values[role] = text.substr(equals + 1);
  }
  return faults;
}

Result<std::string> read_table(const std::string& file) {
  std::ifstream stream(file);
  std::ostringstream text;
  text << stream.rdbuf();
  if (!stream) {
    return plain_error("cannot-read", fmt::format("cannot read {}", file), "check its name");
  }
  return text.str();
}

Result<OpponentMaker> maker_from_file(const Game& game, const std::string& who) {
  constexpr std::string_view learned = "learned:";
  constexpr std::string_view solved = "solved:";
  if (who.starts_with(learned)) {
    const auto table = read_table(who.substr(learned.size()));
    if (!table) return table.diagnostics();
    if (const auto made = learned_player(game, *table, 1); !made) return made.diagnostics();
    return OpponentMaker([game, text = *table](std::uint64_t seed) {
      return learned_player(game, text, seed).value();
    });
  }
  if (who.starts_with(solved)) {
    const auto solution = Solution::kept(who.substr(solved.size()), game);
    if (!solution) return solution.diagnostics();
    return OpponentMaker(
        [kept = *solution](std::uint64_t seed) { return solved_opponent(kept, seed); });
  }
  // rules:FILE, or lookahead… or playouts… with @FILE behind it.
  constexpr std::string_view by_rules = "rules:";
  const std::size_t at = who.find('@');
  const bool plays_by_rules = who.starts_with(by_rules);
  if (plays_by_rules || at != std::string::npos) {
    const std::string file = plays_by_rules ? who.substr(by_rules.size()) : who.substr(at + 1);
    const std::string kind = plays_by_rules ? "rules" : who.substr(0, at);
    const auto rules = OpponentRules::load(game, file);
    if (!rules) return rules.diagnostics();
    if (!rules->findings().empty()) fmt::print(stderr, "{}", rules->findings().render());
    if (const auto made = make_opponent(kind, 1, *rules); !made) return made.diagnostics();
    return OpponentMaker([kind, kept = *rules](std::uint64_t seed) {
      return make_opponent(kind, seed, kept).value();
    });
  }
  return OpponentMaker{};
}

void print_caveat(const Call& call, const std::string& who, const Game& game) {
  const auto caveat = call.flag("quiet") ? std::nullopt : opponent_caveat(who, game);
  if (caveat) fmt::print(stderr, "note: {}\n", *caveat);
}

Result<std::unique_ptr<Opponent>> opponent_of(const Game& game, const std::string& who,
                                              std::uint64_t seed) {
  const auto maker = maker_from_file(game, who);
  if (!maker) return maker.diagnostics();
  return *maker ? Result<std::unique_ptr<Opponent>>((*maker)(seed)) : make_opponent(who, seed);
}

}  // namespace orchard::cli
