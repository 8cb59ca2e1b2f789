// Exhaustive checks of the rules: questions that every game is asked, and claims of its designer,
// answered for every reachable position, with evidence.
//
//   auto review = orchard::review_rules(game).value();
//   for (const auto& answer : review.questions) std::cout << answer.id << ": " << answer.evidence;
//
// Positions are explored breadth first. What holds in all of them holds; a line of play to a
// position where something fails is a shortest one. Where a budget ends the exploration the answer
// is about the positions explored and about random games, and what they do not decide is unknown.
// Every line of play that is shown was replayed by the reference evaluator.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "orchard/budget.hpp"
#include "orchard/line.hpp"
#include "orchard/solve.hpp"

namespace orchard {

// What is made of what was found.
enum class Verdict {
  holds,
  fails,
  unknown,     // the budget ended before it was decided
  suspicious,  // not a fault by the language, but hardly meant
  described,   // no judgement: what the game is like
};
// The word that the command prints for it.
std::string_view name_of(Verdict verdict);

// How far an answer reaches: what was looked at, or how it is known without looking.
struct Reach {
  // The kinds of evidence for how far an answer reaches.
  enum class Kind {
    stated,          // the finding says it all: a line of play, or the rules by themselves
    every_position,  // all reachable positions
    depths,          // all positions up to a depth; nothing is known beyond
    some_positions,  // positions of a depth that was not looked at to its end
    random_games,    // positions of random games; nothing is known beyond
    proved,          // every reachable position, by induction over the plies
  };
  // The kind of evidence.
  Kind kind = Kind::stated;
  std::uint64_t positions = 0;  // of every_position and depths
  std::uint64_t depth = 0;      // of depths
  bool joint_moves = false;     // and every joint move that is legal in them

  // "in all 662 reachable positions"; empty if stated.
  std::string text() const;
  // True if all parts are equal.
  friend bool operator==(const Reach&, const Reach&) = default;
};
// The word that the command prints for it.
std::string_view name_of(Reach::Kind kind);

// What a variable of a claim stands for.
struct Choice {
  std::string variable;  // "?row"
  // The value of the variable, as the text of a term.
  std::string value;
  // True if all parts are equal.
  friend bool operator==(const Choice&, const Choice&) = default;
};

// "?row = 1, ?column = 2".
std::string text_of(const std::vector<Choice>& choice);

// Why an answer is as it is, part by part.
struct Evidence {
  std::string finding;                     // in words: "two values of (square 1 1 …)"
  std::vector<Choice> choice{};            // of the claim's variables, of what was found
  std::optional<std::uint64_t> count{};    // positions in which it was found
  std::optional<std::uint64_t> of_ends{};  // then, if only ends count: ends there are
  // How far the answer reaches.
  Reach reach{};
  std::vector<std::string> remarks{};  // what is to be known beside

  // All of it as one sentence.
  std::string text() const;
  // True if all parts are equal.
  friend bool operator==(const Evidence&, const Evidence&) = default;
};

// What was found out about a question or a claim.
struct Answer {
  std::string id;  // of a question: "ends", "winnable:east"; of a claim: what its designer calls it
  // The answer itself.
  Verdict verdict = Verdict::unknown;
  // What the answer rests on.
  Evidence evidence;
  std::optional<Line> line{};  // of play, to where it shows; a shortest one if it is a failure
  std::string line_title{};    // what the line leads to
  std::optional<std::size_t> repeats_from{};  // the line's last position is that of this ply again
  std::vector<Note> places{};                 // in the rules, with what they are about
};

// How many positions were first reached at a depth, and how many of them are ends.
struct ReviewDepth {
  // The number of positions first reached at this depth.
  std::uint64_t positions = 0;
  // The number of these positions that are terminal.
  std::uint64_t ends = 0;
};

// A rule's clause and whether it ever takes part.
struct ClauseUse {
  // The place of the rule.
  Place place;
  // True if the rule took part in some position.
  bool used = false;
};

// Proofs that were written for others to check.
struct WrittenProofs {
  // The number of answers proved by induction whose proofs were written.
  std::size_t answers = 0;
  std::size_t invariants = 0;         // that they rest on
  std::size_t queries = 0;            // for a solver to refute
  std::vector<std::string> left_out;  // ids of answers that are proved, but are not among these
  bool cut_short = false;             // the time was used up; else those left out have another form
};

// The result of a review: the answers, and how far the exploration went.
struct Review {
  // The answers to the questions, in the order in which they are asked.
  std::vector<Answer> questions;
  // In the order of the file.
  std::vector<Answer> claims;
  // The counts for each depth, beginning with the start.
  std::vector<ReviewDepth> depths;
  // In the order of the rules.
  std::vector<ClauseUse> clauses;
  std::uint64_t positions = 0;  // explored, with what follows from each
  std::uint64_t classes = 0;    // of them, that the rules do not tell apart; one each was kept
  // Positions looked at, all up to the last of `depths`: every reachable one, or more than those
  // explored, if what depends on one position at a time was looked for in more.
  std::optional<std::uint64_t> looked_at{};
  // Whether that is every reachable one.
  bool looked_at_all = false;
  std::uint64_t random_games = 0;  // looked at beside the explored positions
  // Why the exploration ended.
  Ending ending = Ending::complete;
  // Seconds that the review took, by the clock.
  double seconds = 0;
  // What was written to ReviewOptions::proofs.
  std::optional<WrittenProofs> proofs{};
  // Why nothing was asked, if so: the rules have no circuit (a limit was met, see
  // LoadOptions::circuit_bytes), so positions cannot be explored, or the budget ended before.
  // Everything else is empty then.
  Diagnostics not_asked;

  // Whether every reachable position was explored.
  bool complete() const { return ending == Ending::complete && not_asked.empty(); }
  // Whether a requirement or a claim fails, or something is suspicious.
  bool failed() const;
  // Whether an answer is unknown, or nothing was asked.
  bool undecided() const;
};

// What a check asks, and what it may spend.
struct ReviewOptions {
  Budget budget{};       // `positions`: 3 million if not set; `memory_bytes`: half of the machine's
  unsigned threads = 1;  // for exploring; what is found does not depend on it
  // Whether one position of each class is kept that the rules do not tell apart (boards turned or
  // mirrored). Answers are about all positions either way; `automatic` does where there are many.
  enum class Symmetry { automatic, always, never };
  // Whether symmetric positions are explored once only; see `Symmetry`.
  Symmetry symmetry = Symmetry::automatic;
  std::uint64_t seed = 1;                    // of the random games
  std::optional<std::string> claims{};       // a file of claims
  std::optional<std::string> claims_text{};  // or their text
  std::optional<Solution> solution{};        // best play, where it is known already
  // A folder for the proofs of answers, in files that others can check (see docs/CHECKING.md).
  std::optional<std::string> proofs{};
  std::vector<std::string> allow{};  // ids of questions to leave out, with or without ":ROLE"
};

// A position looked for, and a shortest line of play to it.
struct Sought {
  std::optional<Line> line{};        // none if there is no such position, or the budget ended
  std::vector<Choice> choice{};      // what the formula's variables stand for
  std::vector<std::string> unfit{};  // literals that nothing the rules can derive fits
  bool proved = false;               // there is none: not all were looked at, but it is proved
  bool shortest = true;  // not if it was met in a random game beyond the positions explored
  // The number of positions explored; no more than it took, if one was found early.
  std::uint64_t positions = 0;
  // Why the exploration ended: `positions` if one was found early.
  Ending ending = Ending::complete;
  // Seconds that the search took, by the clock.
  double seconds = 0;
};

// A position in which a formula holds: literals as in cases (true, legal, does, terminal, goal, any
// relation of the description), and, or, not, implies, (exists ?v RELATION F), (forall ?v RELATION
// F). A variable that is not bound stands for anything. Fails with `bad-claim`, and if the rules
// have too many instances for a circuit.
Result<Sought> find_position(const Game& game, const std::string& formula,
                             const ReviewOptions& options = {});

// What is odd about a position (`odd-position`, suspicious): fluents that exclude one another in
// every position that can be reached, such as two contents of one square, hold in it; or none of
// fluents does of which one always does, such as whose turn it is. Proved by induction over the
// plies; what is not proved in a second or so is not said. Nothing if the game has no circuit.
Diagnostics doubts_about(const Game& game, const Position& position);

// Groups of fluents of which at most one holds in `start` and in every position that follows it,
// such as the contents of a square, or whose turn it is. Proved by induction over the plies; what
// is not proved in a second or so is left out. None if the game has no circuit. For
// View::exclude.
std::vector<std::vector<Term>> exclusive_fluents(const Game& game, const Position& start);

// The ids of the questions, in the order of asking.
std::vector<std::string> question_ids();

// Fails if the claims are not well formed.
Result<Review> review_rules(const Game& game, const ReviewOptions& options = {});

}  // namespace orchard
