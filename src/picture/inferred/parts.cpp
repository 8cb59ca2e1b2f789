#include "picture/inferred/parts.hpp"

#include <algorithm>

namespace orchard {

using rules::Sorts;
using rules::TermTable;

namespace {

class PartFinder {
 public:
  PartFinder(const TermTable& terms, const Sorts& sorts, std::span<const TermId> of,
             std::size_t deepest)
      : terms_(terms), sorts_(sorts), of_(of), deepest_(deepest) {}

  std::vector<Part> run(Sorts::Owner owner) {
    if (!of_.empty()) open({}, owner);
    return std::move(parts_);
  }

 private:
  // Whether all terms have the same function there, with arguments.
  bool agrees(const Path& path) const {
    const auto& first = terms_[part_at(terms_, of_.front(), path)];
    return first.arity > 0 && std::ranges::all_of(of_, [&](TermId term) {
             const auto& other = terms_[part_at(terms_, term, path)];
             return other.symbol == first.symbol && other.arity == first.arity;
           });
  }

  bool counts_by_nesting(const Path& path) const {
    std::vector<TermId> there;
    for (const TermId term : of_) there.push_back(part_at(terms_, term, path));
    const auto times = nesting(terms_, there);
    return times && std::ranges::max(*times) > 1;
  }

  void open(const Path& path, Sorts::Owner owner) {
    const auto& function = terms_[part_at(terms_, of_.front(), path)];
    for (std::uint32_t argument = 0; argument < function.arity; ++argument) {
      Path inner = path;
      inner.push_back(argument);
      if (inner.size() < deepest_ && agrees(inner) && !counts_by_nesting(inner)) {
        open(inner, Sorts::Owner::function);
      } else {
        auto sort = sorts_.sort(owner, function.symbol, function.arity, argument);
        parts_.push_back({std::move(inner), sort});
      }
    }
  }

  const TermTable& terms_;
  const Sorts& sorts_;
  std::span<const TermId> of_;
  std::size_t deepest_;
  std::vector<Part> parts_;
};

}  // namespace

TermId part_at(const TermTable& terms, TermId term, const Path& path) {
  for (const std::uint32_t argument : path) {
    const auto& entry = terms[term];
    if (argument >= entry.arity) return rules::no_term;
    term = entry.arguments[argument];
  }
  return term;
}

std::optional<std::vector<std::size_t>> nesting(const rules::TermTable& terms,
                                                std::span<const TermId> values) {
  std::vector<std::size_t> result;
  std::optional<rules::SymbolId> function;
  std::optional<TermId> name;
  for (TermId id : values) {
    std::size_t times = 0;
    for (; terms[id].arity == 1; ++times) {
      if (function.value_or(terms[id].symbol) != terms[id].symbol) return std::nullopt;
      function = terms[id].symbol;
      id = terms[id].arguments[0];
    }
    if (terms[id].arity != 0 || name.value_or(id) != id) return std::nullopt;
    name = id;
    result.push_back(times);
  }
  return function ? std::optional(std::move(result)) : std::nullopt;
}

std::vector<Part> common_parts(const TermTable& terms, const Sorts& sorts, Sorts::Owner owner,
                               std::span<const TermId> of, std::size_t deepest) {
  return PartFinder(terms, sorts, of, deepest).run(owner);
}

}  // namespace orchard
