// Terms and the columns of conditions: taking a row apart into variables, and making one of them.
// Part of the Instantiator.
#include <algorithm>

#include "ground/instantiate.hpp"

namespace orchard::ground {

using rules::no_term;

Instantiator::Columns Instantiator::columns_of(const Pattern& pattern) {
  Columns columns;
  for (std::uint32_t at = 0; at < pattern.size(); at += pattern[at].size) {
    const PatternSymbol& symbol = pattern[at];
    Column column{Column::Kind::function, symbol.value, {}, at};
    if (symbol.kind == PatternSymbol::Kind::variable) {
      column.kind = Column::Kind::variable;
    } else if (symbol.arity == 0) {
      column.kind = Column::Kind::constant;
      column.constant = constant(symbol);
    }
    columns.push_back(column);
  }
  return columns;
}

bool Instantiator::match_row(const ClauseFacts& facts, std::size_t literal,
                             std::span<const TermId> row) {
  const Columns& columns = facts.body[literal];
  for (std::size_t c = 0; c < columns.size(); ++c) {
    const Column& column = columns[c];
    if (column.kind == Column::Kind::variable) {
      TermId& value = bindings_[column.variable];
      if (value == no_term) {
        value = row[c];
        trail_.push_back(column.variable);
      } else if (value != row[c]) {
        return false;
      }
    } else if (column.kind == Column::Kind::constant) {
      if (column.constant != row[c]) return false;
    } else if (!match(facts.clause->body[literal].atom.columns, column.first, row[c])) {
      return false;
    }
  }
  return true;
}

bool Instantiator::match(const Pattern& pattern, std::size_t first, TermId term) {
  stack_.assign(1, term);
  for (std::size_t at = first; at < first + pattern[first].size; ++at) {
    const PatternSymbol& symbol = pattern[at];
    const TermId here = stack_.back();
    stack_.pop_back();
    if (symbol.kind == PatternSymbol::Kind::variable) {
      TermId& value = bindings_[symbol.value];
      if (value == no_term) {
        value = here;
        trail_.push_back(symbol.value);
      } else if (value != here) {
        return false;
      }
      continue;
    }
    const rules::TermTable::Entry& entry = terms_[here];
    if (entry.symbol != symbol.symbol() || entry.arity != symbol.arity) return false;
    for (std::uint32_t i = entry.arity; i-- > 0;) stack_.push_back(entry.arguments[i]);
  }
  return true;
}

TermId Instantiator::constant(const PatternSymbol& symbol) {
  const auto [known, is_new] = constants_.try_emplace(symbol.value, TermId{});
  if (is_new) known->second = terms_.add(symbol.symbol(), {});
  return known->second;
}

// From the right, so that a function finds its arguments on the stack.
TermId Instantiator::build(const Pattern& pattern, std::size_t first, bool add) {
  stack_.clear();
  for (std::size_t at = first + pattern[first].size; at-- > first;) {
    const PatternSymbol& symbol = pattern[at];
    if (symbol.kind == PatternSymbol::Kind::variable) {
      stack_.push_back(bindings_[symbol.value]);
    } else if (symbol.arity == 0) {
      stack_.push_back(constant(symbol));
    } else {
      arguments_.assign(stack_.rbegin(),
                        stack_.rbegin() + static_cast<std::ptrdiff_t>(symbol.arity));
      stack_.resize(stack_.size() - symbol.arity);
      const TermId term =
          add ? terms_.add(symbol.symbol(), arguments_) : terms_.find(symbol.symbol(), arguments_);
      if (term == no_term) return no_term;
      if (add) deepest_ = std::max(deepest_, terms_[term].depth);
      stack_.push_back(term);
    }
  }
  return stack_.back();
}

bool Instantiator::build_row(const FlatAtom& atom, const Columns& columns, bool add) {
  row_.clear();
  for (const Column& column : columns) {
    row_.push_back(build_column(atom, column, add));
    if (row_.back() == no_term) return false;
  }
  return true;
}

}  // namespace orchard::ground
