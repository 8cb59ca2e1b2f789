// A line of play as a case.
#include <fmt/core.h>

#include "orchard/cases.hpp"

namespace orchard {
namespace {

// The plies as a case has them.
std::string written_plies(const Game& game, const Line& line) {
  std::string text;
  for (std::size_t ply = 0; ply < line.joints.size(); ++ply) {
    const std::vector<Role> roles = game.to_move(line.positions[ply]);
    text += ply == 0 ? "" : " ";
    if (roles.size() != 1) text += "(joint";
    for (const Role& role : roles) {
      text += fmt::format("{}({} {})", roles.size() == 1 ? "" : " ", role.name(),
                          line.joints[ply][role].to_string());
    }
    if (roles.size() != 1) text += ")";
  }
  return text;
}

}  // namespace

std::string case_of_line(const Game& game, const std::string& name, const Line& line) {
  const Position& first = line.positions.front();
  std::string text = fmt::format("(case \"{}\"\n  {}\n", name,
                                 first == game.initial() ? "(start)" : first.to_string());
  if (!line.joints.empty()) text += fmt::format("  (moves {})\n", written_plies(game, line));
  std::string expectations;
  if (game.terminal(line.last())) {
    expectations += " terminal";
    for (const Role& role : game.roles()) {
      if (const auto goal = game.goal(line.last(), role)) {
        expectations += fmt::format(" (goal {} {})", role.name(), *goal);
      }
    }
  } else {
    expectations += " (not terminal)";
  }
  return text + fmt::format("  (expect{}))\n", expectations);
}

}  // namespace orchard
