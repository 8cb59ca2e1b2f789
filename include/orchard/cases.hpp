// Cases: short tests of a description, written before or beside its rules.
//
//   (case "a bare square beside a branch may be tied"
//     (position (square 1 1 east) (square 1 2 bare) (turn west))
//     (expect (legal west (tie 1 2)) (not terminal) (not (wins ?who)))
//     (legal-moves west (tie 1 2))
//     (refused west (tie 1 1)))
//
//   (case "East wins by the corners of a square"
//     (start)
//     (moves (tie 1 1) (west (tie 1 3)) (joint (east (tie 2 1)) (west wait)) …)
//     (expect terminal (goal east 100)))
//
// A ply of `moves` is the move of the one role to move, (ROLE MOVE), or a joint move; roles that
// are not named make their only legal move, and what chance does and is not written is drawn, the
// same every time. `expect` takes `legal`, `true`, `terminal`, `goal`,
// `sees` (on entering the position) and every relation of the description, and `not` of these;
// a variable stands for anything. `legal-moves` gives all legal moves of a role. Of best play speak
// (value ROLE NUMBER), (best ROLE MOVE…) with all best moves, and (wins-within ROLE PLIES): the
// role forces its best value within so many plies of everybody. Moves and expectations may follow
// one another as often as wanted: each expectation is looked at where it stands, and the first
// position in which one fails ends the case. Any thread may call; the game may be shared.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "orchard/game.hpp"
#include "orchard/line.hpp"
#include "orchard/solve.hpp"

namespace orchard {

// An expectation of a case that was not met.
struct CaseFailure {
  Place place;           // of the expectation
  std::string expected;  // "(not terminal)"
  std::string found;     // "it holds"
};

// The outcome of one case.
struct CaseResult {
  // The name that the case has in its file.
  std::string name;
  // The place where the case begins in its file.
  Place place;
  // Those of the first position in which something fails.
  std::vector<CaseFailure> failures;
  std::optional<Position> position;  // the last one, or where an expectation failed first
  // The number of plies that led to `position`.
  std::uint64_t ply = 0;
  // True if every expectation was met.
  bool passed() const { return failures.empty(); }
};

// Limits and choices for running cases.
struct CaseOptions {
  std::string filter{};  // only cases with this text in their name
  // Reads boards that are drawn, (position (drawn "…") FLUENT…): of a Picture with the game's
  // drawing rules. Without one, boards are read as drawn without drawing rules.
  DrawingReader reader{};
  // Best play, where it is known already; else it is worked out.
  std::optional<Solution> solution{};
  // Called for each position that a case comes to, with the joint move that is made there, or null
  // at the last one.
  std::function<void(const Position&, const JointMove*)> come_to{};
};

// Runs the cases of a file in their order, calling `visit` (if any) after each. Fails, with
// everything wrong with the file, if it does not read as cases, and with `no-case` if there is
// none, or none that the filter fits. A case that cannot be played, or speaks of what the rules do
// not have (yet) or can never make, is a failed case.
Result<std::vector<CaseResult>> run_cases(const Game& game, const std::string& path,
                                          const CaseOptions& options = {},
                                          const std::function<void(const CaseResult&)>& visit = {});
// Runs the cases in a text; `name` stands for the file in diagnostics.
Result<std::vector<CaseResult>> run_cases_of_text(
    const Game& game, std::string text, const CaseOptions& options = {},
    const std::function<void(const CaseResult&)>& visit = {});

// A line of play from its first position as a case: its moves, and whether its last position is an
// end, with the goals there, as what is expected. Reads back as a case that passes.
std::string case_of_line(const Game& game, const std::string& name, const Line& line);

}  // namespace orchard
