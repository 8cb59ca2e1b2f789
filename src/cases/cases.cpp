#include "orchard/cases.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>

#include "base/counted.hpp"
#include "base/similar.hpp"
#include "cases/case_file.hpp"
#include "game/core.hpp"
#include "game/known_terms.hpp"
#include "orchard/picture.hpp"
#include "orchard/solve.hpp"
#include "syntax/matching.hpp"
#include "syntax/reader.hpp"

namespace orchard {
namespace {

using review::CaseForm;
using review::Expectation;

// Whether a term with variables fits a ground one.
bool fits(const Term& pattern, const Term& value) {
  syntax::Bindings bindings;
  return syntax::matches(pattern, value, bindings);
}

constexpr std::uint64_t most_solved = 2'000'000;  // positions that best play may take

class CaseRun {
 public:
  CaseRun(const Game& game, const syntax::Tree& tree, const CaseForm& form,
          const DrawingReader& reader, const CaseOptions& options)
      : game_(game),
        tree_(tree),
        form_(form),
        reader_(reader),
        come_to_(options.come_to),
        solution_(options.solution) {
    result_.name = form.name;
    result_.place = form.place;
  }

  CaseResult run() {
    if (set_up()) {
      play();
      if (come_to_) come_to_(*position_, nullptr);
    }
    return std::move(result_);
  }

 private:
  bool set_up();
  void play();
  bool play(const WrittenPly& ply);
  void check(const Expectation& expectation);
  void check_as_it_is(const Expectation& expectation);
  void check_literal(const Expectation& expectation);
  void check_legal_moves(const Expectation& expectation);
  void check_best_play(const Expectation& expectation);
  std::optional<bool> holds(const Expectation& expectation);
  std::optional<bool> any_instance(const Expectation& expectation, rules::RelationId relation);
  bool fail(const Place& place, const std::string& expected, const std::string& found) {
    if (position_) result_.position = *position_;
    result_.failures.push_back({place, expected, found});
    return false;
  }
  // Why what the expectation speaks of can never be, if so.
  std::optional<KnownTerms::Fault> impossible(const Expectation& expectation) const;
  static std::string first_line(const Diagnostics& diagnostics) {
    return diagnostics.items().front().message;
  }

  const Game& game_;
  const syntax::Tree& tree_;
  const CaseForm& form_;
  const DrawingReader& reader_;
  const std::function<void(const Position&, const JointMove*)>& come_to_;
  CaseResult result_;
  std::optional<Position> position_;
  std::optional<Position> before_;  // the last joint move was made here
  std::optional<JointMove> joint_;
  std::optional<Solution> solution_;
  Random chance_{1};  // draws what a line leaves to chance, the same every time
};

bool CaseRun::set_up() {
  if (!form_.start) {
    position_ = game_.initial();
    return true;
  }
  const auto position = position_of(game_, tree_, *form_.start, reader_);
  if (!position) {
    const Diagnostic& fault = position.diagnostics().items().front();
    return fail(form_.start->drawing ? fault.place : form_.place, "a position of this game",
                fault.message);
  }
  const KnownTerms& known = GameAccess::core(game_)->known_terms();
  for (const Term& fluent : position->fluents()) {
    if (const auto fault = known.fault_in_fluent(fluent)) {
      return fail(form_.place, "a position of this game", fault->in_one_line());
    }
  }
  position_ = *position;
  return true;
}

// Plies and expectations in the order of the text. What is shown is where the first one failed.
void CaseRun::play() {
  auto next = form_.expectations.begin();
  for (std::size_t plies = 0;; ++plies) {
    for (; next != form_.expectations.end() && next->after == plies; ++next) check(*next);
    if (result_.failures.empty()) result_.position = *position_;
    if (plies == form_.plies.size() || !result_.failures.empty()) return;
    if (!play(form_.plies[plies])) return;
  }
}

bool CaseRun::play(const WrittenPly& ply) {
  PlayedPly played = play_ply(game_, *position_, ply, chance_);
  if (!played.next) return fail(ply.place, played.expected, played.found);
  before_ = played.drawn.last();
  if (come_to_) {
    for (std::size_t at = 0; at < played.drawn.joints.size(); ++at) {
      come_to_(played.drawn.positions[at], &played.drawn.joints[at]);
    }
    come_to_(*before_, &*played.joint);
  }
  joint_ = std::move(played.joint);
  position_ = std::move(played.next);
  result_.ply += played.drawn.joints.size() + 1;
  return true;
}

std::optional<KnownTerms::Fault> CaseRun::impossible(const Expectation& expectation) const {
  const KnownTerms& known = GameAccess::core(game_)->known_terms();
  if (expectation.kind == Expectation::Kind::literal) return known.fault_in_atom(expectation.atom);
  for (const Term& move : expectation.moves) {
    if (auto fault = known.fault_in_move(move)) return fault;
  }
  return std::nullopt;
}

// What the rules can never make is a slip of the pen: expected not to hold, it would be met for
// ever, whatever the rules do. What was met otherwise is there.
void CaseRun::check(const Expectation& expectation) {
  const std::size_t failures = result_.failures.size();
  check_as_it_is(expectation);
  const bool met = result_.failures.size() == failures;
  const bool by_absence = expectation.negated || expectation.kind == Expectation::Kind::refused;
  const auto fault = met && !by_absence ? std::nullopt : impossible(expectation);
  if (!fault) return;
  if (met) {
    fail(expectation.place, expectation.text, fault->in_one_line());
  } else if (fault->remedy.starts_with("did you mean")) {
    result_.failures.back().found += "; " + fault->remedy;
  }
}

void CaseRun::check_as_it_is(const Expectation& expectation) {
  switch (expectation.kind) {
    case Expectation::Kind::literal:
      return check_literal(expectation);
    case Expectation::Kind::legal_moves:
      return check_legal_moves(expectation);
    case Expectation::Kind::value:
    case Expectation::Kind::best:
    case Expectation::Kind::wins_within:
      return check_best_play(expectation);
    case Expectation::Kind::refused:
      break;
  }
  const Move move = game_.move(expectation.moves.front());
  const std::vector<Move> legal = game_.legal(*position_, *expectation.role);
  if (!game_.terminal(*position_) && std::ranges::find(legal, move) != legal.end()) {
    fail(expectation.place, expectation.text, "the move is legal");
  }
}

// Best play is worked out once, and again only for a position that did not follow from it.
void CaseRun::check_best_play(const Expectation& expectation) {
  const Role& role = *expectation.role;
  const bool how_soon = expectation.kind == Expectation::Kind::wins_within;
  if (!solution_ || !solution_->value(*position_, role) ||
      (how_soon && !solution_->plies(*position_))) {
    SolveOptions options;
    options.from = *position_;
    options.budget.positions = most_solved;
    // A search does not tell how soon.
    if (how_soon) options.way = SolveOptions::Way::all;
    const auto solved = solve(game_, options);
    if (!solved) {
      fail(expectation.place, expectation.text, first_line(solved.diagnostics()));
      return;
    }
    solution_ = *solved;
  }
  const auto value = solution_->value(*position_, role);
  if (!value || !solution_->complete()) {
    fail(expectation.place, expectation.text, "not solved: " + solution_->reason());
    return;
  }
  constexpr double same = 1e-6;
  if (expectation.kind == Expectation::Kind::value) {
    if (std::abs(*value - static_cast<double>(expectation.number)) > same) {
      fail(expectation.place, expectation.text, fmt::format("its value is {:.4g}", *value));
    }
    return;
  }
  if (how_soon) {
    const std::uint64_t plies = *solution_->plies(*position_);
    if (*value < 100 - same) {
      fail(expectation.place, expectation.text,
           fmt::format("it cannot force a win; its value is {:.4g}", *value));
    } else if (expectation.number < 0 || plies > static_cast<std::uint64_t>(expectation.number)) {
      fail(expectation.place, expectation.text, "it wins in " + counted(plies, "ply", "plies"));
    }
    return;
  }
  std::vector<Term> wanted = expectation.moves;
  std::ranges::sort(wanted);
  std::vector<Term> best;
  std::string list;
  for (const GoodMove& move : solution_->best(*position_, role)) {
    best.push_back(move.move.term());
    list += " " + move.move.to_string();
  }
  if (best != wanted) fail(expectation.place, expectation.text, "the best are" + list);
}

void CaseRun::check_legal_moves(const Expectation& expectation) {
  std::vector<Term> wanted = expectation.moves;
  std::ranges::sort(wanted);
  wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
  std::vector<Term> legal;
  for (const Move& move : game_.legal(*position_, *expectation.role)) legal.push_back(move.term());
  if (wanted == legal) return;
  std::string found;
  for (const Term& move : legal) {
    if (!std::ranges::binary_search(wanted, move)) found += " " + move.to_string() + " too,";
  }
  for (const Term& move : wanted) {
    if (!std::ranges::binary_search(legal, move)) found += " not " + move.to_string() + ",";
  }
  found.pop_back();
  fail(expectation.place, expectation.text, found.substr(1));
}

void CaseRun::check_literal(const Expectation& expectation) {
  const auto answer = holds(expectation);
  if (!answer) return;
  const bool met = *answer != expectation.negated;
  std::string found = expectation.negated ? "it holds" : "it does not hold";
  const Term& atom = expectation.atom;
  const auto role = !expectation.negated && atom.name() == "goal" && atom.arity() == 2
                        ? game_.role(atom.arguments()[0].to_string())
                        : std::nullopt;
  const std::vector<Term> values = role ? game_.goals(*position_, *role) : std::vector<Term>{};
  // One of several goals is no result.
  if (met && values.size() < 2) return;
  if (role) {
    found = values.empty() ? "no value" : values.size() > 1 ? "several values at once:" : "";
    for (const Term& value : values) found += (found.empty() ? "" : " ") + value.to_string();
  }
  fail(expectation.place, expectation.text, found);
}

// Whether some instance of the atom holds; none, with the failure noted, if it cannot be asked.
std::optional<bool> CaseRun::holds(const Expectation& expectation) {
  const Term& atom = expectation.atom;
  const rules::Description& description = GameAccess::core(game_)->program().description();
  if (atom.name() == "true" && atom.arity() == 1) {
    return std::ranges::any_of(position_->fluents(), [&](const Term& fluent) {
      return fits(atom.arguments()[0], fluent);
    });
  }
  if (atom.name() == "sees" && atom.arity() == 2) {
    const auto role = game_.role(atom.arguments()[0].to_string());
    if (!role || !before_) {
      fail(expectation.place, expectation.text,
           role ? "no move was made yet" : "a percept of someone who is not a role");
      return std::nullopt;
    }
    const auto percepts = game_.percepts(*before_, *joint_, *role).value();
    return std::ranges::any_of(
        percepts, [&](const Term& percept) { return fits(atom.arguments()[1], percept); });
  }
  const auto relation = description.find(atom.name(), static_cast<std::uint32_t>(atom.arity()));
  if (relation) return any_instance(expectation, *relation);
  std::vector<std::string> names;
  for (const rules::Relation& known : description.relations()) {
    names.push_back(description.terms().name(known.name));
  }
  const auto meant = most_similar(atom.name(), names);
  fail(expectation.place, expectation.text,
       fmt::format("the rules have no relation {} of {} arguments{}", atom.name(), atom.arity(),
                   meant ? "; did you mean " + *meant + "?" : ""));
  return std::nullopt;
}

std::optional<bool> CaseRun::any_instance(const Expectation& expectation,
                                          rules::RelationId relation) {
  const GameCore& core = *GameAccess::core(game_);
  if (core.program().dependency().phase(relation) == rules::Phase::step) {
    fail(expectation.place, expectation.text, "this depends on moves; expect what they change");
    return std::nullopt;
  }
  GameCore::Lease evaluator(core);
  try {
    evaluator->set_position(GameAccess::state(*position_).fluents());
    const logic::Table& table = evaluator->reference().instances(relation);
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      std::vector<Term> arguments;
      for (std::uint32_t column = 0; column < table.arity(); ++column) {
        arguments.push_back(core.terms().term(table.row(row)[column]));
      }
      if (fits(expectation.atom, Term::function(expectation.atom.name(), arguments))) return true;
    }
    return false;
  } catch (const logic::LimitExceeded& limit) {
    fail(expectation.place, expectation.text, limit.what());
    return std::nullopt;
  }
}

}  // namespace

namespace {

Result<std::vector<CaseResult>> run_source(const Game& game, const syntax::Source& source,
                                           const CaseOptions& options,
                                           const std::function<void(const CaseResult&)>& visit) {
  Diagnostics diagnostics;
  syntax::ReaderOptions reading;
  reading.strings = true;
  const syntax::Tree tree = syntax::read(source, reading, diagnostics);
  const std::vector<CaseForm> forms = review::read_case_file(game, tree, diagnostics);
  if (diagnostics.has_errors()) return diagnostics;
  const DrawingReader reader =
      options.reader ? options.reader
                     : [&game](const std::string& drawing, const std::vector<Term>& fluents) {
                         return Picture(game).read_drawn(drawing, fluents);
                       };
  // Cases that were not there have not passed.
  const auto none = [&](std::string message, std::string remedy) {
    Diagnostic fault = plain_error("no-case", std::move(message), std::move(remedy));
    fault.place.file = source.name();
    return fault;
  };
  if (forms.empty()) {
    return none("there is no case in this file", "write (case \"name\" (start) (expect …))");
  }
  std::vector<CaseResult> results;
  for (const CaseForm& form : forms) {
    if (form.name.find(options.filter) == std::string::npos) continue;
    results.push_back(CaseRun(game, tree, form, reader, options).run());
    if (visit) visit(results.back());
  }
  if (results.empty()) {
    return none(fmt::format("no case has `{}` in its name", options.filter),
                fmt::format("there are {}; the first one is \"{}\"",
                            counted(forms.size(), "case", "cases"), forms.front().name));
  }
  return results;
}

}  // namespace

Result<std::vector<CaseResult>> run_cases(const Game& game, const std::string& path,
                                          const CaseOptions& options,
                                          const std::function<void(const CaseResult&)>& visit) {
  const auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  return run_source(game, *source, options, visit);
}

Result<std::vector<CaseResult>> run_cases_of_text(
    const Game& game, std::string text, const CaseOptions& options,
    const std::function<void(const CaseResult&)>& visit) {
  return run_source(game, syntax::Source("cases", std::move(text)), options, visit);
}

}  // namespace orchard
