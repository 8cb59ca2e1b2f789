#include "orchard/explain.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "base/similar.hpp"
#include "explain/explainer.hpp"
#include "game/core.hpp"

namespace orchard {
namespace {

using explain::Explainer;
using explain::Facts;
using rules::Keyword;
using Kind = Reason::Kind;

std::vector<TermId> ids_of(const std::optional<JointMove>& joint) {
  std::vector<TermId> result;
  if (!joint) return result;
  for (const Move& move : *joint) result.push_back(GameAccess::id(move));
  return result;
}

Diagnostic too_large(const ExplainOptions& options) {
  return plain_error(
      "too-large",
      fmt::format("more than {} instances of rules lead to this", options.most_instances),
      "ask about a part of it, or raise the limit");
}

// Whether the relation needs a joint move.
bool is_about_a_step(const Game& game, const Term& atom) {
  const rules::Description& description = GameAccess::core(game)->program().description();
  const auto relation = description.find(atom.name(), static_cast<std::uint32_t>(atom.arity()));
  return relation && GameAccess::core(game)->program().tables()[rules::index_of(*relation)].phase ==
                         rules::Phase::step;
}

Result<Explanation> explain_here(const Game& game, const Position& position,
                                 const std::optional<JointMove>& joint, const Question& question,
                                 const ExplainOptions& options, Explanation begun) {
  const GameCore& core = *GameAccess::core(game);
  try {
    const std::vector<TermId> moves = ids_of(joint);
    Facts facts(core.shared_program(), GameAccess::state(position).fluents(), moves);
    if (!Explainer(facts, options).run(question, begun)) return too_large(options);
  } catch (const logic::LimitExceeded& limit) {
    return core.too_large(limit);
  }
  return begun;
}

// The ply before the joint move since which the fluent has been as it is now; none if it has
// been so since the beginning of the line.
std::optional<std::size_t> last_change(const Circumstances& at, const Term& fluent, bool now) {
  for (std::size_t ply = at.earlier.size(); ply-- > 0;) {
    if (at.earlier[ply].holds(fluent) != now) return ply;
  }
  return std::nullopt;
}

// A fluent is explained by the rules for `next` at the ply that made it so, or for `init`.
Result<Explanation> explain_fluent(const Game& game, const Circumstances& at,
                                   const Question& question, const ExplainOptions& options) {
  const Term fluent = question.atom.arguments().front();
  Explanation result;
  Reason root;
  root.atom = question.atom;
  root.negated = question.negated;
  const bool now = at.position.holds(fluent);
  result.holds = root.holds = now != question.negated;
  root.kind = Kind::since;
  auto ply = last_change(at, fluent, now);
  const rules::Description& description = GameAccess::core(game)->program().description();
  const bool from_start =
      !ply && (at.earlier.empty() ? at.position : at.earlier.front()) == game.initial();
  // A fluent that was never there is asked of the last step; one that always was, of the start.
  if (!ply && !now && !at.earlier.empty()) ply = at.earlier.size() - 1;
  const Keyword keyword = ply ? Keyword::next : Keyword::init;
  if ((!ply && !from_start) || !description.find(keyword)) {
    root.kind = Kind::fluent;
    result.reasons.push_back(std::move(root));
    return result;
  }
  root.ply = ply ? *ply + 1 : 0;
  if (ply) root.joint = at.joints[*ply].to_string();
  root.conditions.push_back(1);
  const bool holds = result.holds;
  result.reasons.push_back(std::move(root));
  const Question step{Term::function(ply ? "next" : "init", {fluent}), false};
  auto explained = explain_here(game, ply ? at.earlier[*ply] : game.initial(),
                                ply ? std::optional(at.joints[*ply]) : std::nullopt, step, options,
                                std::move(result));
  if (!explained) return explained;
  Explanation done = *explained;
  done.holds = holds;
  return done;
}

// A number that `#count` made and that is another one here: how many hold, instead of the steps of
// the count that miss it. None if it is no such number.
std::optional<Result<Explanation>> explain_other_count(const Game& game, const Circumstances& at,
                                                       const Question& question,
                                                       const ExplainOptions& options) {
  const rules::Description& description = GameAccess::core(game)->program().description();
  const auto arity = static_cast<std::uint32_t>(question.atom.arity());
  if (arity == 0 || !description.find(question.atom.name() + "_so_far", arity + 1)) {
    return std::nullopt;
  }
  std::vector<Term> arguments = question.atom.arguments();
  if (!arguments.back().number()) return std::nullopt;
  Explanation begun;
  Reason root;
  root.atom = question.atom;
  root.negated = question.negated;
  root.kind = Kind::open;
  begun.holds = root.holds = question.negated;
  root.conditions.push_back(1);
  begun.reasons.push_back(std::move(root));
  arguments.back() = Term::constant("?n");
  const Question other{Term::function(question.atom.name(), arguments), false};
  auto explained = explain_here(game, at.position, at.joint, other, options, begun);
  if (!explained || explained->reasons[1].kind != Kind::rule) return std::nullopt;
  // The same number: it holds after all.
  if (explained->reasons[1].atom == question.atom) return std::nullopt;
  explained->holds = begun.holds;
  return explained;
}

// The last symbols of `text` after the leading word, in parentheses if they are not.
std::string in_parentheses(std::string_view text) {
  const std::size_t first = text.find_first_not_of(" \t\n");
  if (first == std::string_view::npos) return "()";
  text = text.substr(first, text.find_last_not_of(" \t\n") + 1 - first);
  if (text.front() == '(' || text.find(' ') == std::string_view::npos) return std::string(text);
  return fmt::format("({})", text);
}

}  // namespace

std::string Reason::literal() const {
  return negated ? fmt::format("(not {})", atom.to_string()) : atom.to_string();
}

Result<Question> Question::parse(const Game& game, std::string_view text) {
  // "not true (turn east)" asks like "not (true (turn east))".
  constexpr std::string_view no = "not ";
  const std::size_t begin = std::min(text.find_first_not_of(" \t\n"), text.size());
  if (text.substr(begin).starts_with(no)) {
    auto inner = parse(game, text.substr(begin + no.size()));
    if (inner) inner->negated = !inner->negated;
    return inner;
  }
  auto term = Term::parse(in_parentheses(text));
  if (!term) {
    return plain_error(
        "bad-question", fmt::format("`{}` is not a question", text),
        "ask like this: \"legal east (tie 1 1)\", \"terminal\", \"not (wins east)\"");
  }
  Question question{*term, false};
  while (question.atom.name() == "not" && question.atom.arity() == 1) {
    question.atom = Term(question.atom.arguments().front());
    question.negated = !question.negated;
  }
  const rules::Description& description = GameAccess::core(game)->program().description();
  const auto arity = static_cast<std::uint32_t>(question.atom.arity());
  if (description.find(question.atom.name(), arity)) return question;
  std::vector<std::string> names;
  for (const rules::Relation& relation : description.relations()) {
    const std::string& name = description.terms().name(relation.name);
    if (name == question.atom.name()) {
      return plain_error("bad-question",
                         fmt::format("`{}` takes {} argument{}, not {}", name, relation.arity,
                                     relation.arity == 1 ? "" : "s", arity),
                         "write it as the rules do");
    }
    names.push_back(name);
  }
  if (question.atom.is_ground() && !GameAccess::core(game)->fault_in_fluent(question.atom)) {
    return plain_error("bad-question",
                       fmt::format("{} is a fluent, not a relation", question.atom.to_string()),
                       fmt::format("ask (true {})", question.atom.to_string()));
  }
  const auto meant = most_similar(question.atom.name(), names);
  return plain_error(
      "bad-question", fmt::format("the rules have no relation `{}`", question.atom.name()),
      meant ? fmt::format("did you mean `{}`?", *meant)
            : "ask about legal, terminal, goal, true, next or a relation of the rules");
}

Result<Explanation> why(const Game& game, const Circumstances& circumstances,
                        const Question& question, const ExplainOptions& options) {
  const rules::Description& description = GameAccess::core(game)->program().description();
  const bool known =
      description.find(question.atom.name(), static_cast<std::uint32_t>(question.atom.arity()))
          .has_value();
  const bool asks_fluent = question.atom.name() == "true" && question.atom.arity() == 1;
  if (!known && !asks_fluent) {
    return plain_error("bad-question",
                       fmt::format("the rules have no relation `{}`", question.atom.name()),
                       "ask about legal, terminal, goal, true, next or a relation of the rules");
  }
  if (asks_fluent && question.atom.is_ground()) {
    return explain_fluent(game, circumstances, question, options);
  }
  if (!circumstances.joint && is_about_a_step(game, question.atom)) {
    return plain_error(
        "needs-a-move",
        fmt::format("{} depends on the moves that are made", question.atom.to_string()),
        "say which joint move is being made");
  }
  if (auto count = explain_other_count(game, circumstances, question, options)) return *count;
  return explain_here(game, circumstances.position, circumstances.joint, question, options, {});
}

std::vector<Term> Explanation::fluents() const {
  std::set<Term> result;
  for (const Reason& reason : reasons) {
    if (reason.kind == Kind::fluent && !reason.negated && reason.holds) {
      result.insert(reason.atom.arguments().front());
    }
  }
  return {result.begin(), result.end()};
}

std::vector<Term> deciding_fluents(const Game& game, const Position& position) {
  if (!game.terminal(position)) return {};
  std::set<Term> result;
  const Circumstances here{position};
  ExplainOptions options;
  const auto add = [&](const Term& atom) {
    const auto proof = why(game, here, {atom, false}, options);
    if (!proof || !proof->holds) return;
    for (const Term& fluent : proof->fluents()) result.insert(fluent);
  };
  add(Term::constant("terminal"));
  std::int64_t best = -1;
  for (const Role& role : game.roles()) {
    best = std::max(best, game.goal(position, role).value_or(-1));
  }
  for (const Role& role : game.roles()) {
    const auto value = game.goal(position, role);
    if (!value || *value != best || best == 0) continue;
    add(Term::function("goal",
                       {Term::constant(role.name()), Term::constant(std::to_string(*value))}));
  }
  return {result.begin(), result.end()};
}

}  // namespace orchard
