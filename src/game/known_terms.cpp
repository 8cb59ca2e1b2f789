#include "game/known_terms.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/similar.hpp"

namespace orchard {

using rules::Keyword;

KnownTerms::KnownTerms(const rules::Description& description)
    : description_(description), domains_(description) {
  only_names_ = std::ranges::none_of(description.clauses(), [&](const rules::Clause& clause) {
    return description.relation(clause.head.relation).keyword == Keyword::next;
  });
}

std::vector<rules::PlaceId> KnownTerms::places(const Argument& at) const {
  using Owner = rules::Places::Owner;
  const std::vector<Owner> owners = at.of_relation
                                        ? std::vector{Owner::relation}
                                        : std::vector{Owner::fluent, Owner::move, Owner::function};
  std::vector<rules::PlaceId> result;
  for (const Owner owner : owners) {
    if (const auto place = domains_.places().find(owner, at.name, at.arity, at.number)) {
      result.push_back(*place);
    }
  }
  return result;
}

// What can stand there: the name that was probably meant, or all that are few.
std::string KnownTerms::likely(const Term& term, const std::vector<rules::PlaceId>& places) const {
  std::vector<std::string> names;
  std::string other_arity;
  for (const rules::PlaceId place : places) {
    for (const rules::Domains::Name& name : domains_.domain(place)) {
      names.push_back(description_.terms().name(name.symbol));
      if (names.back() == term.name()) {
        other_arity = fmt::format("`{}` takes {} argument{} there", names.back(), name.arity,
                                  name.arity == 1 ? "" : "s");
      }
    }
  }
  if (!other_arity.empty()) return other_arity;
  if (const auto meant = most_similar(term.name(), names); meant && !term.number()) {
    return fmt::format("did you mean `{}`?", *meant);
  }
  std::ranges::sort(names, [](const auto& a, const auto& b) { return compare_names(a, b) < 0; });
  constexpr std::size_t few = 8;
  std::string list;
  for (std::size_t i = 0; i < std::min(few, names.size()); ++i) list += " " + names[i];
  if (names.size() > few) list += fmt::format(" … {}", names.back());
  return names.empty() ? "no rule says what could be" : "what can be there:" + list;
}

std::optional<KnownTerms::Fault> KnownTerms::fault_at(const Argument& at, const Term& term,
                                                      const Term& whole, const char* kind) const {
  if (term.is_variable()) return std::nullopt;
  const auto arity = static_cast<std::uint32_t>(term.arity());
  const auto symbol = description_.terms().find_symbol(term.name());
  const std::vector<rules::PlaceId> there = places(at);
  const bool fits = symbol && std::ranges::any_of(there, [&](rules::PlaceId place) {
                      return domains_.allows(place, {*symbol, arity});
                    });
  if (!fits && (kind != nullptr || !only_names_)) {
    Fault fault;
    fault.message =
        kind != nullptr
            ? fmt::format("no rule makes a {} like {}", kind, whole.to_string())
            : fmt::format("{} can never be: argument {} of `{}` is never {}", whole.to_string(),
                          at.number + 1, description_.terms().name(at.name), term.to_string());
    fault.remedy = likely(term, there);
    return fault;
  }
  for (std::uint32_t i = 0; symbol && i < arity; ++i) {
    auto fault = fault_at({false, *symbol, arity, i}, term.arguments()[i], whole, nullptr);
    if (fault) return fault;
  }
  return std::nullopt;
}

rules::SymbolId KnownTerms::symbol_of(Keyword keyword) const {
  const auto relation = description_.find(keyword);
  return relation ? description_.relation(*relation).name : description_.keyword_symbol(keyword);
}

std::optional<KnownTerms::Fault> KnownTerms::fault_in_fluent(const Term& fluent) const {
  return fault_at({true, symbol_of(Keyword::true_), 1, 0}, fluent, fluent, "fluent");
}

std::optional<KnownTerms::Fault> KnownTerms::fault_in_move(const Term& move) const {
  return fault_at({true, symbol_of(Keyword::does), 2, 1}, move, move, "move");
}

std::optional<KnownTerms::Fault> KnownTerms::fault_in_role(const Term& role) const {
  if (role.is_variable()) return std::nullopt;
  std::vector<std::string> names;
  for (const rules::TermId id : description_.roles()) {
    names.push_back(description_.terms().term(id).to_string());
    if (names.back() == role.to_string()) return std::nullopt;
  }
  const auto meant = most_similar(role.to_string(), names);
  std::string list;
  for (const std::string& name : names) list += (list.empty() ? "" : ", ") + name;
  return Fault{role.to_string() + " is not a role",
               meant ? fmt::format("did you mean `{}`?", *meant) : "the roles are " + list};
}

std::optional<KnownTerms::Fault> KnownTerms::fault_in_atom(const Term& atom) const {
  const std::string& name = atom.name();
  const std::vector<Term> arguments = atom.arguments();
  const bool of_fluents = name == "true" || name == "init" || name == "next";
  if (of_fluents && arguments.size() == 1) return fault_in_fluent(arguments.front());
  if (name == "base" || name == "input") return std::nullopt;  // the domains leave them out
  const auto arity = static_cast<std::uint32_t>(arguments.size());
  const bool of_moves = name == "legal" || name == "does";
  const bool of_roles = of_moves || name == "goal" || name == "sees";
  const auto symbol = description_.terms().find_symbol(name);
  for (std::uint32_t i = 0; i < arity; ++i) {
    std::optional<Fault> fault;
    if (of_roles && arity == 2 && i == 0) {
      fault = fault_in_role(arguments[i]);
    } else if (of_moves && arity == 2) {
      fault = fault_in_move(arguments[i]);
    } else if (symbol) {
      fault = fault_at({true, *symbol, arity, i}, arguments[i], atom, nullptr);
    }
    if (fault) return fault;
  }
  return std::nullopt;
}

}  // namespace orchard
