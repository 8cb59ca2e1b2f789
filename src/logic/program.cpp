#include "logic/program.hpp"

#include <array>

#include "logic/program_builder.hpp"
#include "logic/runner.hpp"
#include "syntax/tree.hpp"

namespace orchard::logic {

Result<std::shared_ptr<const Program>> Program::make(
    std::shared_ptr<const rules::Description> description, const Limits& limits,
    Answering answering) {
  std::shared_ptr<Program> program(new Program(std::move(description), limits));
  try {
    ProgramBuilder(*program).run(answering);
  } catch (const LimitExceeded& limit) {
    const rules::Clause& clause = program->description_->clauses()[limit.clause()];
    return syntax::error_at(program->description_->tree(), clause.head.node, "too-large",
                            std::string(limit.what()) + ", reached by this rule",
                            "narrow what its variables range over");
  }
  return std::shared_ptr<const Program>(std::move(program));
}

std::vector<std::uint32_t> Program::needs(RelationId relation) const {
  const std::vector<bool> cone = dependency_.cone(std::array{relation});
  std::vector<std::uint32_t> result;
  for (std::uint32_t c = 0; c < components_.size(); ++c) {
    const bool inside = cone[index_of(components_[c].tables.front())];
    if (inside && components_[c].phase != Phase::constant) result.push_back(c);
  }
  return result;
}

std::optional<std::uint32_t> Program::component_to_ask(TableId table) const {
  if (index_of(table) >= asked_.size()) return std::nullopt;  // a part
  if (tables_[index_of(table)].phase == Phase::constant) return std::nullopt;
  const auto relation = static_cast<RelationId>(index_of(table));
  const Keyword keyword = description_->relation(relation).keyword;
  if (keyword == Keyword::true_ || keyword == Keyword::does) return std::nullopt;
  return dependency_.component(relation);
}

std::strong_ordering Program::compare(TermId a, TermId b) const {
  const rules::TermTable::Entry& left = terms()[a];
  const rules::TermTable::Entry& right = terms()[b];
  if (left.depth > 1 || right.depth > 1) return terms().compare(a, b);
  const auto compare_symbols = [&](SymbolId x, SymbolId y) -> std::strong_ordering {
    const auto i = static_cast<std::uint32_t>(x);
    const auto j = static_cast<std::uint32_t>(y);
    if (i == j) return std::strong_ordering::equal;
    if (i < symbol_rank_.size() && j < symbol_rank_.size()) {
      return symbol_rank_[i] <=> symbol_rank_[j];
    }
    return compare_names(terms().name(x), terms().name(y));
  };
  if (const auto order = compare_symbols(left.symbol, right.symbol); order != 0) return order;
  if (left.arity != right.arity) return left.arity <=> right.arity;
  for (std::uint32_t i = 0; i < left.arity; ++i) {
    const auto order =
        compare_symbols(terms()[left.arguments[i]].symbol, terms()[right.arguments[i]].symbol);
    if (order != 0) return order;
  }
  return std::strong_ordering::equal;
}

}  // namespace orchard::logic
