#include "picture/ruled/drawing_rules.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <filesystem>

#include "base/similar.hpp"
#include "picture/ruled/drawing_facts.hpp"
#include "picture/ruled/undrawn.hpp"
#include "picture/scene/scene.hpp"
#include "syntax/tree.hpp"

namespace orchard::picture {
namespace {

using rules::Description;
using rules::PatternSymbol;

// Told by fluents of names that nobody would give.
struct Told {
  std::string_view relation;
  std::string_view fluent;
  std::uint32_t arity;
};
constexpr Told told[] = {{"viewer", "drawing_viewer!", 1},
                         {"perceived", "drawing_percept!", 2},
                         {"last_move", "drawing_move!", 2},
                         {"unsure", "drawing_unsure!", 1}};

// The relations that tell of the drawing, those left out that the game has as its own.
std::string told_rules(const Description& game) {
  std::string text;
  for (const Told& next : told) {
    if (game.find(next.relation, next.arity)) continue;
    const std::string_view variables = next.arity == 1 ? "?a" : "?a ?b";
    text += fmt::format("(<= ({} {}) (true ({} {})))\n", next.relation, variables, next.fluent,
                        variables);
  }
  return text;
}

class Checker {
 public:
  Checker(const Game& game, const Description& base, const Description& all,
          Diagnostics& diagnostics)
      : game_(game), base_(base), all_(all), diagnostics_(diagnostics) {}

  void run(std::size_t first_clause) {
    for (std::size_t c = first_clause; c < all_.clauses().size(); ++c) check(all_.clauses()[c]);
  }

 private:
  void error(syntax::NodeIndex node, std::string message, Remedy remedy) {
    syntax::report(all_.tree(), node, "bad-drawing", std::move(message), std::move(remedy),
                   diagnostics_);
  }
  std::string name(const PatternSymbol& symbol) const { return all_.terms().name(symbol.symbol()); }
  static bool is_variable(const PatternSymbol& symbol) {
    return symbol.kind == PatternSymbol::Kind::variable;
  }

  void check(const rules::Clause& clause);
  void check_fact(const rules::Pattern& fact);
  void check_shape(const PatternSymbol* shape);
  void check_tone(const PatternSymbol& tone);

  const Game& game_;
  const Description& base_;
  const Description& all_;
  Diagnostics& diagnostics_;
};

void Checker::check(const rules::Clause& clause) {
  const rules::Relation& relation = all_.relation(clause.head.relation);
  const std::string& head = all_.terms().name(relation.name);
  if (head == "draw" && relation.arity == 1) {
    check_fact(clause.head.arguments);
    return;
  }
  const auto own = base_.find(head, relation.arity);
  const bool keyword = relation.keyword != rules::Keyword::none;
  if (keyword || (own && base_.relation(*own).concluded)) {
    error(clause.head.node, fmt::format("a drawing cannot change `{}` of the game", head),
          "give the relation a name of its own");
  }
}

void Checker::check_fact(const rules::Pattern& fact) {
  const PatternSymbol& symbol = fact.front();
  if (is_variable(symbol)) {
    error(symbol.node, "it is not clear which drawing fact this is",
          "write it out: (draw (piece …))");
    return;
  }
  std::vector<std::string> names;
  std::string_view shape;
  for (const DrawingFact& known : drawing_facts()) {
    names.emplace_back(known.name);
    if (known.name != name(symbol)) continue;
    shape = known.shape;
    if (known.arity != symbol.arity) continue;
    std::vector<const PatternSymbol*> arguments;
    for (const PatternSymbol* at = &symbol + 1; arguments.size() < symbol.arity; at += at->size) {
      arguments.push_back(at);
    }
    // Which argument is what is said by the words of its shape.
    std::string_view words = shape;
    words = words.substr(words.find(' ') + 1);
    for (const PatternSymbol* argument : arguments) {
      const std::string_view word = words.substr(0, words.find_first_of(" )"));
      if (word == "SHAPE") check_shape(argument);
      if (word == "TONE") check_tone(*argument);
      if (word == "upwards" || word == "leftwards") {
        if (is_variable(*argument) || name(*argument) != word) {
          error(argument->node, fmt::format("`{}` takes `{}` only", known.name, word),
                fmt::format("write (draw {})", known.shape));
        }
      }
      words = words.substr(std::min(words.find(' ') + 1, words.size()));
    }
    return;
  }
  if (!shape.empty()) {
    error(symbol.node, fmt::format("`{}` is not written like this", name(symbol)),
          fmt::format("write (draw {})", shape));
    return;
  }
  const auto meant = most_similar(name(symbol), names);
  error(
      symbol.node, fmt::format("there is no drawing fact `{}`", name(symbol)),
      meant ? Remedy::name_meant(name(symbol), *meant) : "docs/DRAWING.md lists the drawing facts");
}

void Checker::check_shape(const PatternSymbol* shape) {
  if (is_variable(*shape)) return;
  const std::string known = name(*shape);
  if (shape->arity == 0 && shape_named(known)) return;
  if ((known == "letter" || known == "word") && shape->arity == 1) return;
  if (known == "marked" && shape->arity == 2) return check_shape(shape + 1);
  if (known == "pair" && shape->arity == 2) return;
  if (known == "pointing" && shape->arity == 2) return check_shape(shape + 2);
  std::string list;
  const std::vector<std::string> names = shape_names();
  for (const std::string& next : names) list += (list.empty() ? "" : " ") + next;
  const auto meant = most_similar(known, names);
  error(shape->node, fmt::format("there is no shape `{}`", known),
        meant
            ? Remedy::name_meant(known, *meant)
            : fmt::format("the shapes are {}, and (letter NAME), (word NAME), (marked SHAPE NAME), "
                          "(pair NAME NAME), (pointing DIRECTION SHAPE)",
                          list));
}

void Checker::check_tone(const PatternSymbol& tone) {
  if (is_variable(tone)) return;
  const std::string known = name(tone);
  if (tone.arity == 0 && (tone_named(known) || game_.role(known))) return;
  std::vector<std::string> names = tone_names();
  for (const Role& role : game_.roles()) names.push_back(role.name());
  std::string list;
  for (const std::string& next : names) list += (list.empty() ? "" : " ") + next;
  const auto meant = most_similar(known, names);
  error(tone.node, fmt::format("there is no tone `{}`", known),
        meant ? Remedy::name_meant(known, *meant) : fmt::format("the tones are {}", list));
}

}  // namespace

DrawingRules::DrawingRules(std::shared_ptr<const logic::Program> program,
                           std::shared_ptr<const Description> game,
                           std::vector<syntax::Source> sources)
    : game_(std::move(game)), sources_(std::move(sources)) {
  whole_.draw = program->description().find("draw", 1);
  whole_.program = std::move(program);
}

namespace {

// What is said of the drawing rules themselves. That nobody asks for `draw`, that a position holds
// what no rule makes, and that a drawing fact has the name of a fluent is in the nature of it.
Diagnostics of_file(const Diagnostics& diagnostics, const std::string& name) {
  Diagnostics result;
  for (const Diagnostic& finding : diagnostics) {
    // A caption is a sentence: its words are no names of things.
    const bool by_nature = finding.code == "unused-relation" || finding.code == "unread-fluent" ||
                           finding.code == "function-arity" || finding.code == "lonely-name";
    const bool here = finding.severity == Severity::error || finding.place.file == name;
    if (here && !by_nature) result.add(finding);
  }
  return result;
}

// A rule or fact for (draw (choice …)).
bool draws_a_choice(const syntax::Tree& tree, syntax::NodeIndex form) {
  if (!tree.is_list(form)) return false;
  const std::vector<syntax::NodeIndex> parts = tree.children(form);
  const syntax::NodeIndex head = tree.head(form) == "<=" && parts.size() > 1 ? parts[1] : form;
  if (tree.head(head) != "draw") return false;
  const std::vector<syntax::NodeIndex> arguments = tree.children(head);
  return arguments.size() == 2 && tree.head(arguments[1]) == "choice";
}

}  // namespace

DrawingRules::Prepared& DrawingRules::prepared(bool with_choices) const {
  if (with_choices) return whole_;
  std::call_once(without_once_, [this] {
    const auto all = Description::extend_without(*game_, sources_, {}, draws_a_choice);
    auto program = logic::Program::make(all, whole_.program->limits());
    const auto draw = all->find("draw", 1);
    if (!program || !draw) return;
    without_choices_.program = *program;
    without_choices_.draw = draw;
  });
  return without_choices_.program ? without_choices_ : whole_;
}

Result<std::shared_ptr<const DrawingRules>> DrawingRules::read(const Game& game,
                                                               const std::string& path) {
  auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  return make(game, *source);
}

Result<std::shared_ptr<const DrawingRules>> DrawingRules::from_text(const Game& game,
                                                                    std::string text,
                                                                    std::string name) {
  return make(game, syntax::Source(std::move(name), std::move(text)));
}

Result<std::shared_ptr<const DrawingRules>> DrawingRules::make(const Game& game,
                                                               syntax::Source source) {
  const logic::Program& of_game = GameAccess::core(game)->program();
  const Description& base = of_game.description();
  Diagnostics diagnostics;
  const std::string name = source.name();
  const syntax::Source before("", told_rules(base));
  const std::vector<syntax::Source> sources{before, std::move(source)};
  const auto all = Description::extend(base, sources, {}, diagnostics);
  if (!all) return of_file(diagnostics, name);
  const std::size_t first =
      base.clauses().size() + static_cast<std::size_t>(std::ranges::count(before.text(), '\n'));
  Checker(game, base, *all, diagnostics).run(first);
  if (diagnostics.has_errors()) return of_file(diagnostics, name);
  auto program = logic::Program::make(all, of_game.limits());
  if (!program) return program.diagnostics();
  std::shared_ptr<DrawingRules> result(
      new DrawingRules(*program, of_game.shared_description(), sources));
  if (!result->whole_.draw) {
    Diagnostic nothing = plain_error("bad-drawing", "these rules draw nothing",
                                     "write rules for draw: (draw (square 1 1))");
    nothing.place.file = name;
    return nothing;
  }
  result->findings_ = of_file(diagnostics, name);
  result->hints_ = undrawn_fluents(*all, first);
  const auto percepts = all->find(told[1].relation, told[1].arity);
  for (std::size_t c = first; c < all->clauses().size() && percepts; ++c) {
    for (const rules::Literal& literal : all->clauses()[c].body) {
      const bool asks = !literal.is_comparison() && literal.atom.relation == percepts;
      result->asks_for_percepts_ = result->asks_for_percepts_ || asks;
    }
  }
  return std::shared_ptr<const DrawingRules>(std::move(result));
}

// The first rule whose head the fact can be an instance of, by the name and the constants in it.
std::size_t DrawingRules::rule_of(const Prepared& prepared, const Term& fact) {
  const Description& description = prepared.program->description();
  const std::vector<Term::Symbol> symbols = fact.symbols();
  for (const std::uint32_t clause : description.relation(*prepared.draw).clauses) {
    const rules::Pattern& pattern = description.clauses()[clause].head.arguments;
    std::size_t at = 0;
    bool fits = true;
    for (std::size_t i = 0; i < pattern.size() && fits; ++i) {
      if (at >= symbols.size()) break;
      if (pattern[i].kind == PatternSymbol::Kind::variable) {
        at += symbols[at].size;
        continue;
      }
      fits = pattern[i].arity == symbols[at].arity &&
             description.terms().name(pattern[i].symbol()) == symbols[at].name;
      ++at;
    }
    if (fits) return clause;
  }
  return static_cast<std::size_t>(-1);
}

DrawingRules::Drawn DrawingRules::derive(const std::vector<Term>& fluents,
                                         bool with_choices) const {
  Prepared& with = prepared(with_choices);
  std::unique_ptr<logic::Evaluator> evaluator;
  {
    const std::lock_guard lock(mutex_);
    if (!with.pool.empty()) {
      evaluator = std::move(with.pool.back());
      with.pool.pop_back();
    }
  }
  if (!evaluator) evaluator = std::make_unique<logic::Evaluator>(with.program);
  std::vector<TermId> ids;
  for (const Term& fluent : fluents) ids.push_back(with.program->terms().add(fluent));
  Drawn drawn;
  try {
    evaluator->set_position(ids);
    const logic::Table& table = evaluator->instances(*with.draw);
    std::vector<std::pair<std::size_t, Term>> ordered;
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      Term fact = with.program->terms().term(*table.row(row));
      const std::size_t rule = rule_of(with, fact);
      ordered.emplace_back(rule, std::move(fact));
    }
    std::ranges::sort(ordered);
    for (auto& [rule, fact] : ordered) drawn.facts.push_back(std::move(fact));
  } catch (const logic::LimitExceeded&) {
    drawn.complete = false;
    evaluator->set_position({});
  }
  const std::lock_guard lock(mutex_);
  with.pool.push_back(std::move(evaluator));
  return drawn;
}

DrawingRules::Drawn DrawingRules::draw(const PictureFrame& frame) const {
  std::vector<Term> fluents = frame.position.fluents();
  if (frame.viewer) {
    const Term viewer = Term::constant(frame.viewer->name());
    fluents.push_back(Term::function(told[0].fluent, {viewer}));
    for (const Term& percept : frame.perceived) {
      fluents.push_back(Term::function(told[1].fluent, {viewer, percept}));
    }
    for (const Term& fluent : frame.unsure) {
      fluents.push_back(Term::function(told[3].fluent, {fluent}));
    }
  }
  for (const auto& [role, move] : frame.last_moves) {
    fluents.push_back(Term::function(told[2].fluent, {Term::constant(role.name()), move}));
  }
  return derive(fluents, !frame.moves.empty());
}

Facts DrawingRules::drawn_of(const Term& fluent) const {
  {
    const std::lock_guard lock(mutex_);
    if (const auto known = of_fluent_.find(fluent); known != of_fluent_.end()) return known->second;
  }
  std::set<Term> always;
  {
    const std::lock_guard lock(mutex_);
    if (always_) always = *always_;
  }
  if (always.empty()) {
    const Drawn nothing = derive({}, false);
    always.insert(nothing.facts.begin(), nothing.facts.end());
  }
  Facts result;
  Drawn drawn = derive({fluent}, false);
  for (Term& fact : drawn.facts) {
    if (!always.contains(fact)) result.push_back(std::move(fact));
  }
  const std::lock_guard lock(mutex_);
  if (!always_) always_ = std::move(always);
  of_fluent_.emplace(fluent, result);
  return result;
}

}  // namespace orchard::picture
