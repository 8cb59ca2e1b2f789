// A record held against the rules.
#include <fmt/core.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "orchard/record.hpp"

namespace orchard {
namespace {

class Verification {
 public:
  Verification(const Game& game, const MatchRecord& record, const std::string& file)
      : game_(game), record_(record), file_(file) {}

  Diagnostics run() {
    if (record_.rules != game_.digest()) {
      add(record_.line, "it was played by other rules, as their digest tells",
          "give the description as it was then: " + record_.game);
    }
    std::vector<std::string> roles;
    for (const Role& role : game_.roles()) roles.push_back(role.name());
    if (roles != record_.roles) {
      add(record_.line, fmt::format("its roles are {}", fmt::join(record_.roles, ", ")),
          fmt::format("the roles of the rules are {}", fmt::join(roles, ", ")));
      return std::move(faults_);
    }
    std::optional<Position> start;
    if (!record_.start.empty()) {
      auto position = game_.position(record_.start);
      if (!position) {
        add(record_.line, "it begins at what is no position of these rules",
            position.diagnostics().items().front().message);
        return std::move(faults_);
      }
      start = *position;
    }
    Match match(game_, start);
    for (std::size_t ply = 0; ply < record_.joints.size(); ++ply) {
      if (!play(match, ply)) return std::move(faults_);
    }
    look_at_end(match);
    return std::move(faults_);
  }

 private:
  void add(int line, std::string message, std::string remedy) {
    Diagnostic fault = plain_error("record-mismatch", std::move(message), std::move(remedy));
    fault.place.file = file_;
    fault.place.line = line;
    faults_.add(std::move(fault));
  }

  bool play(Match& match, std::size_t ply) {
    static const PlyNotes none;
    const PlyNotes& notes = ply < record_.notes.size() ? record_.notes[ply] : none;
    JointMove joint;
    for (const Term& move : record_.joints[ply]) joint.add(game_.move(move));
    const Position before = match.position();
    if (const Diagnostics wrong = match.play(joint); !wrong.empty()) {
      const Diagnostic& first = wrong.items().front();
      add(notes.line, fmt::format("ply {}: {}", ply, first.message), first.remedy);
      return false;
    }
    for (const auto& [name, seen] : notes.percepts) {
      const auto right = game_.percepts(before, joint, *game_.role(name));
      std::vector<Term> told = seen;
      std::ranges::sort(told);
      if (right && *right == told) continue;
      add(notes.line, fmt::format("ply {}: {} did not perceive this", ply, name),
          right && !right->empty() ? fmt::format("it perceived {}", text_of(*right))
                                   : "it perceived nothing");
    }
    if (notes.position) {
      std::vector<Term> told = *notes.position;
      std::ranges::sort(told);
      if (told != match.position().fluents()) {
        add(notes.line, fmt::format("ply {}: this is not the position after it", ply),
            "it is " + match.position().to_string());
      }
    }
    return true;
  }

  static std::string text_of(const std::vector<Term>& terms) {
    std::string text;
    for (const Term& term : terms) text += (text.empty() ? "" : " ") + term.to_string();
    return text;
  }

  void look_at_end(const Match& match) {
    if (!record_.end) return;
    const auto right = end_of(match);
    const std::string& reason = record_.end->reason;
    const int line = record_.end->line;
    const bool tells_end = reason == "terminal" || reason == "stuck" || reason.empty();
    if (tells_end && !right) {
      add(line, "the game is not over here", "the record has lost plies, or ended too early");
      return;
    }
    if (right && !reason.empty() && reason != right->reason) {
      add(line, fmt::format("it did not end by \"{}\"", reason),
          fmt::format("it ended by \"{}\"", right->reason));
    }
    if (!right) return;
    for (const auto& [name, goal] : record_.end->goals) {
      const auto found = right->goals.find(name);
      if (found == right->goals.end()) {
        add(line, fmt::format("{} has no single goal at this end", name), "leave it out");
      } else if (found->second != goal) {
        add(line, fmt::format("the goal of {} is not {}", name, goal),
            fmt::format("it is {}", found->second));
      }
    }
    for (const auto& [name, goal] : right->goals) {
      if (!record_.end->goals.contains(name))
        add(line, fmt::format("the goal of {} is missing", name), fmt::format("it is {}", goal));
    }
  }

  const Game& game_;
  const MatchRecord& record_;
  const std::string& file_;
  Diagnostics faults_;
};

}  // namespace

Diagnostics verify_record(const Game& game, const MatchRecord& record, const std::string& file) {
  return Verification(game, record, file).run();
}

}  // namespace orchard
