#include "cli/summary_text.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <iterator>
#include <map>

#include "base/counted.hpp"

namespace orchard::cli {
namespace {

class Table {
 public:
  void add(std::string what, std::string first, std::string second) {
    rows_.push_back({std::move(what), std::move(first), std::move(second)});
  }
  std::string text() const {
    std::size_t widths[2] = {0, 0};
    for (const Row& row : rows_) {
      widths[0] = std::max(widths[0], row.what.size());
      widths[1] = std::max(widths[1], row.first.size());
    }
    std::string text;
    for (const Row& row : rows_) {
      text += fmt::format("   {:<{}}   {:<{}}   {}{}\n", row.what, widths[0], row.first, widths[1],
                          row.second, row.first == row.second || row.what.empty() ? "" : "   *");
    }
    return text;
  }

 private:
  struct Row {
    std::string what, first, second;
  };
  std::vector<Row> rows_;
};

std::string positions_of(const GameSummary& summary) {
  if (summary.positions) return fmt::format("{} (depth {})", *summary.positions, summary.depth);
  return fmt::format("{} to depth {}", summary.positions_to_depth, summary.depth);
}

std::string length_of(const GameSummary& summary) {
  return fmt::format("{:.1f} ({} to {})", summary.mean_length, summary.least_length,
                     summary.most_length);
}

// A figure of a role, if the game has it.
std::string figure(const GameSummary& summary, const std::vector<double>& figures,
                   const std::string& role) {
  const auto known = std::ranges::find(summary.roles, role);
  const auto number = static_cast<std::size_t>(known - summary.roles.begin());
  return number < figures.size() ? fmt::format("{:.1f}", figures[number]) : "–";
}

std::string list_of(const std::vector<std::string>& moves) {
  constexpr std::size_t most = 12;
  std::string text;
  for (std::size_t m = 0; m < std::min(most, moves.size()); ++m) text += "      " + moves[m] + "\n";
  if (moves.size() > most) text += fmt::format("      … {} in all\n", moves.size());
  return text;
}

std::string moves_text(const GameSummary& first, const GameSummary& second) {
  std::vector<std::string> gone;
  std::vector<std::string> fresh;
  std::ranges::set_difference(first.moves, second.moves, std::back_inserter(gone));
  std::ranges::set_difference(second.moves, first.moves, std::back_inserter(fresh));
  std::string text;
  if (!fresh.empty()) text += "\nmoves that are new:\n" + list_of(fresh);
  if (!gone.empty()) text += "\nmoves that are gone:\n" + list_of(gone);
  return text;
}

std::string answers_text(const std::vector<Answer>& first, const std::vector<Answer>& second) {
  std::map<std::string, const Answer*> before;
  for (const Answer& answer : first) before.emplace(answer.id, &answer);
  std::string text;
  for (const Answer& answer : second) {
    const auto known = before.find(answer.id);
    if (known == before.end()) {
      text += fmt::format("   {}: new, {}\n", answer.id, name_of(answer.verdict));
    } else {
      if (known->second->verdict != answer.verdict) {
        text +=
            fmt::format("   {}: {} → {}\n      {}\n", answer.id, name_of(known->second->verdict),
                        name_of(answer.verdict), answer.evidence.text());
      }
      before.erase(known);
    }
  }
  for (const auto& [id, answer] : before) text += fmt::format("   {}: gone\n", id);
  return text;
}

}  // namespace

std::string summary_text(const GameSummary& first, const GameSummary& second,
                         const std::string& first_name, const std::string& second_name) {
  Table table;
  table.add("", first_name, second_name);
  table.add("rules and facts", std::to_string(first.rules), std::to_string(second.rules));
  table.add("moves foreseen", std::to_string(first.moves.size()),
            std::to_string(second.moves.size()));
  table.add("reachable positions", positions_of(first), positions_of(second));
  table.add("plies of a random game", length_of(first), length_of(second));
  table.add("games that get stuck", fmt::format("{:.1f} %", 100 * first.stuck),
            fmt::format("{:.1f} %", 100 * second.stuck));
  std::vector<std::string> roles = first.roles;
  for (const std::string& role : second.roles) {
    if (std::ranges::find(roles, role) == roles.end()) roles.push_back(role);
  }
  for (const std::string& role : roles) {
    table.add("mean goal of " + role, figure(first, first.mean_goals, role),
              figure(second, second.mean_goals, role));
  }
  for (const std::string& role : roles) {
    table.add("legal moves of " + role, figure(first, first.branching, role),
              figure(second, second.branching, role));
  }
  std::string text = "\n" + table.text() + "   (* differs)\n" + moves_text(first, second);
  const std::string questions = answers_text(first.questions, second.questions);
  const std::string claims = answers_text(first.claims, second.claims);
  if (!questions.empty()) text += "\nquestions answered otherwise:\n" + questions;
  if (!claims.empty()) text += "\nclaims answered otherwise:\n" + claims;
  if (questions.empty() && claims.empty()) text += "\nquestions and claims are answered the same\n";
  return text;
}

}  // namespace orchard::cli
