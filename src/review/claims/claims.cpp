#include "review/claims/claims.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <set>

#include "review/claims/claim_asking.hpp"
#include "syntax/reader.hpp"

namespace orchard::review {

using syntax::NodeIndex;
using syntax::Tree;

namespace {

constexpr std::size_t most_nesting = 200;  // of formulas

// The text with the stretches of some forms blanked, so that places in the rest stay right.
std::string without(const Tree& tree, const std::vector<NodeIndex>& forms) {
  std::string text(tree.source().text());
  for (const NodeIndex form : forms) {
    for (std::size_t at = tree[form].begin; at < tree[form].end; ++at) {
      if (text[at] != '\n') text[at] = ' ';
    }
  }
  return text;
}

// The game with further rules. Mistakes in `made` are told at the places of what they come from.
Result<Game> extended(const Game& game, const syntax::Source& helpers, const ClaimRules* made) {
  constexpr std::string_view made_name = "claims as rules";
  std::vector<syntax::Source> further{helpers};
  if (made != nullptr) further.emplace_back(std::string(made_name), made->text());
  auto result = game_with(game, further);
  if (result || made == nullptr) return result;
  Diagnostics told;
  for (Diagnostic diagnostic : result.diagnostics()) {
    if (diagnostic.place.file == made_name) {
      diagnostic.place = made->places()[static_cast<std::size_t>(diagnostic.place.line - 1)];
      diagnostic.notes.clear();
    }
    told.add(std::move(diagnostic));
  }
  return told;
}

// Rules that ask for the relations of the game that claims speak of and no rule of the game does:
// the circuit leaves those out.
std::string rules_for_unasked(const Game& game, const Tree& tree,
                              const std::vector<NodeIndex>& claims) {
  const rules::Description& description = GameAccess::core(game)->program().description();
  const ground::GroundProgram& ground = GameAccess::core(game)->lanes_near_start()->ground();
  std::set<rules::RelationId> unasked;
  std::vector<NodeIndex> open = claims;
  while (!open.empty()) {
    const NodeIndex node = open.back();
    open.pop_back();
    const std::vector<NodeIndex> parts = tree.children(node);
    open.insert(open.end(), parts.begin(), parts.end());
    const auto atom = syntax::term_of(tree, node);
    if (!atom || atom->is_variable()) continue;
    const auto relation = description.find(atom->name(), static_cast<std::uint32_t>(atom->arity()));
    if (!relation || description.relation(*relation).keyword != rules::Keyword::none) continue;
    if (ground.instances(*relation).empty()) unasked.insert(*relation);
  }
  std::string text;
  for (const rules::RelationId relation : unasked) {
    std::string atom(description.terms().name(description.relation(relation).name));
    for (std::uint32_t i = 0; i < description.relation(relation).arity; ++i) {
      atom += fmt::format(" ?asked_{}", i);
    }
    text += fmt::format("(<= asked_by_claims_{} ({}))\n", static_cast<std::size_t>(relation), atom);
  }
  return text;
}

}  // namespace

Result<Claims> Claims::read(const Game& game, const ReviewOptions& options) {
  if (options.claims_text) {
    return make(game, syntax::Source("claims", *options.claims_text), false);
  }
  if (!options.claims) return Claims(game);
  auto source = syntax::Source::from_file(*options.claims);
  if (!source) return source.diagnostics();
  return make(game, *source, false);
}

Result<Claims> Claims::of_formula(const Game& game, const std::string& formula) {
  return make(game, syntax::Source("formula", formula), true);
}

Result<Claims> Claims::make(const Game& game, const syntax::Source& source, bool is_formula) {
  Diagnostics diagnostics;
  syntax::ReaderOptions reading;
  reading.strings = true;
  reading.limits.nesting = most_nesting;
  const Tree tree = syntax::read(source, reading, diagnostics);
  if (diagnostics.has_errors()) return diagnostics;
  std::vector<NodeIndex> claims;
  for (const NodeIndex form : tree.forms()) {
    if (is_formula || tree.head(form) == "claim") claims.push_back(form);
  }
  if (claims.empty() || (is_formula && claims.size() > 1)) {
    Diagnostic fault = plain_error(
        "bad-claim", is_formula ? "expected one formula" : "this file claims nothing",
        is_formula ? "write a literal, such as \"terminal\", or combine several by and, or, not"
                   : "write (claim \"name\" (always …))");
    fault.place.file = source.name();
    return fault;
  }
  if (GameAccess::core(game)->lanes_near_start() == nullptr) {
    return GameAccess::core(game)->lanes_fault();
  }
  const std::string unasked = rules_for_unasked(game, tree, claims);
  const syntax::Source helpers(source.name(), without(tree, claims) + unasked);
  const bool has_helpers = claims.size() < tree.forms().size() || !unasked.empty();
  Claims result(game);
  if (has_helpers) {
    auto with_helpers = extended(game, helpers, nullptr);
    if (!with_helpers) return with_helpers.diagnostics();
    result.explored_ = *with_helpers;
  }
  const GameCore& core = *GameAccess::core(result.explored_);
  if (core.lanes_near_start() == nullptr) return core.lanes_fault();
  ClaimRules made(result.explored_, tree, diagnostics);
  for (const NodeIndex form : claims) {
    auto claim = is_formula ? made.read_formula(form) : made.read(form);
    if (claim) result.claims_.push_back(std::move(*claim));
  }
  if (diagnostics.has_errors()) return diagnostics;
  auto with_claims = extended(game, helpers, &made);
  if (!with_claims) return with_claims.diagnostics();
  result.explored_ = *with_claims;
  const GameCore& asked = *GameAccess::core(result.explored_);
  if (asked.lanes_near_start() == nullptr) return asked.lanes_fault();
  return result;
}

Conclusion Claims::ask(Watchlist& list) const {
  std::vector<Conclusion> conclusions;
  for (const Claim& claim : claims_) {
    try {
      conclusions.push_back(ask_claim(list, claim));
    } catch (const Interrupted& interrupted) {
      conclusions.emplace_back([name = claim.name, interrupted](Findings&) {
        return std::vector{left_open(name, interrupted)};
      });
    }
  }
  return [conclusions, this](Findings& findings) {
    std::vector<Answer> answers;
    const auto concluded = [&](std::size_t i) {
      findings.answering("claim " + claims_[i].name);
      try {
        return conclusions[i](findings);
      } catch (const Interrupted& interrupted) {
        return std::vector{left_open(claims_[i].name, interrupted)};
      }
    };
    for (std::size_t i = 0; i < conclusions.size(); ++i) {
      if (claims_[i].is_beyond) {
        answers.push_back({claims_[i].name,
                           Verdict::unknown,
                           {"nothing that it is about is met in the first plies"}});
        continue;
      }
      for (Answer& answer : concluded(i)) {
        for (const std::string& unfit : claims_[i].unfit) {
          answer.evidence.remarks.push_back(
              fmt::format("nothing that the rules derive matches {}", unfit));
          // It may hold for that reason alone.
          if (answer.verdict == Verdict::holds) answer.verdict = Verdict::suspicious;
        }
        answers.push_back(std::move(answer));
      }
    }
    return answers;
  };
}

}  // namespace orchard::review
