// Orders given by facts that have a gap, and constants that stand among things of another kind.
#include <absl/container/flat_hash_map.h>
#include <fmt/core.h>

#include <algorithm>
#include <map>
#include <set>
#include <utility>

#include "rules/domains.hpp"
#include "rules/finding_sink.hpp"
#include "rules/sorts.hpp"

namespace orchard::rules {
namespace {

std::optional<std::int64_t> number_of(const Description& description, const PatternSymbol& symbol) {
  if (symbol.kind != PatternSymbol::Kind::constant) return std::nullopt;
  return Term::constant(description.terms().name(symbol.symbol())).number();
}

struct Step {  // a fact (relation from to) on numbers
  std::int64_t from;
  std::int64_t to;
  syntax::NodeIndex node;
};

// The facts of a relation of two numbers; none if it is anything else.
std::vector<Step> steps_of(const Description& description, const Relation& relation) {
  std::vector<Step> steps;
  if (relation.arity != 2 || relation.keyword != Keyword::none) return steps;
  for (const std::uint32_t number : relation.clauses) {
    const Clause& clause = description.clauses()[number];
    if (!clause.body.empty() || clause.head.arguments.size() != 2) return {};
    const auto from = number_of(description, clause.head.arguments[0]);
    const auto to = number_of(description, clause.head.arguments[1]);
    if (!from || !to) return {};
    steps.push_back({*from, *to, clause.head.node});
  }
  return steps;
}

// Whether most steps end where another one begins: an order is a chain, with a gap in it at worst.
bool is_chain(const std::vector<Step>& steps) {
  std::set<std::int64_t> begins;
  for (const Step& step : steps) begins.insert(step.from);
  const auto linked =
      std::ranges::count_if(steps, [&](const Step& step) { return begins.contains(step.to); });
  return 2 * static_cast<std::size_t>(linked) >= steps.size();
}

// A stretch of facts that follow one another, up to where some are missing.
struct Piece {
  std::size_t facts = 0;
  const Step* end = nullptr;
  const Step* goes_on = nullptr;  // behind the gap; null if there is none
  std::int64_t missing = 0;       // facts in the gap
};

// Rows of places that are numbered 11, 12, 13, 21, 22, 23 are all of one length, with gaps of one
// size between; what was forgotten is less than what is there.
bool is_meant(const std::vector<Piece>& pieces) {
  const auto is_like_first = [&](const Piece& piece) {
    return piece.facts == pieces.front().facts &&
           (piece.goes_on == nullptr || piece.missing == pieces.front().missing);
  };
  return pieces.size() > 2 && pieces.front().facts > 1 &&
         std::ranges::all_of(pieces, is_like_first);
}

// Steps of more than one make several chains that lie within one another.
void find_gap(const std::string& name, const std::vector<Step>& steps, std::int64_t size,
              FindingSink& sink) {
  const std::int64_t stride = std::abs(size);
  std::map<std::int64_t, std::vector<Piece>> chains;
  for (const Step& step : steps) {
    std::vector<Piece>& pieces = chains[((step.from % stride) + stride) % stride];
    if (pieces.empty()) pieces.emplace_back();
    Piece* last = &pieces.back();
    if (last->end != nullptr && last->end->from != step.from &&
        last->end->from + stride != step.from) {
      last->goes_on = &step;
      last->missing = (step.from - last->end->from) / stride - 1;
      last = &pieces.emplace_back();
    }
    ++last->facts;
    last->end = &step;
  }
  for (const auto& [first, pieces] : chains) {
    if (is_meant(pieces)) continue;
    for (std::size_t i = 0; i + 1 < pieces.size(); ++i) {
      const Piece& piece = pieces[i];
      const auto longer = static_cast<std::int64_t>(std::max(piece.facts, pieces[i + 1].facts));
      if (piece.missing > longer) continue;
      sink.add(piece.goes_on->node, "broken-order",
               fmt::format("`{}` is said of {} and of {}, and of nothing between", name,
                           piece.end->from, piece.goes_on->from),
               "add the missing facts");
      return;
    }
  }
}

// The step that all facts but one take, if there is one, is the order's.
void check_order(const Description& description, const Relation& relation, FindingSink& sink) {
  std::vector<Step> steps = steps_of(description, relation);
  constexpr std::size_t least = 3;
  if (steps.size() < least || !is_chain(steps)) return;
  std::map<std::int64_t, std::size_t> sizes;
  for (const Step& step : steps) ++sizes[step.to - step.from];
  const auto usual =
      std::ranges::max_element(sizes, {}, [](const auto& entry) { return entry.second; });
  const std::int64_t size = usual->first;
  if (size == 0 || usual->second + 1 < steps.size()) return;
  std::ranges::sort(steps, {}, &Step::from);
  const std::string& name = description.terms().name(relation.name);
  if (usual->second + 1 == steps.size()) {
    const auto odd =
        std::ranges::find_if(steps, [&](const Step& s) { return s.to - s.from != size; });
    const bool closes_ring = odd->from == (size > 0 ? steps.back().from : steps.front().from) &&
                             odd->to == (size > 0 ? steps.front().from : steps.back().from);
    if (closes_ring) return;
    sink.add(odd->node, "broken-order",
             fmt::format("`{}` goes from {} to {} here, and by {} everywhere else", name, odd->from,
                         odd->to, size),
             "check the numbers of this fact");
    return;
  }
  find_gap(name, steps, size, sink);
}

}  // namespace

void find_broken_orders(const Description& description, FindingSink& sink) {
  for (const Relation& relation : description.relations()) check_order(description, relation, sink);
}

void find_odd_constants(const Description& description, FindingSink& sink) {
  const Places places(description);
  struct Use {
    FindingSink::Written rule;  // the first one that writes it there
    bool once = true;           // no other rule does
    const PatternSymbol* symbol = nullptr;
  };
  std::vector<std::map<SymbolId, Use>> uses(places.size());
  // Rules that write a constant among things of one sort: one that stands in several, as the name
  // of an end that a rule asks for, is meant.
  const Sorts sorts(description);
  std::map<std::pair<Sorts::Sort, SymbolId>, std::set<FindingSink::Written>> writers;
  for (const Clause& clause : description.clauses()) {
    const auto rule = FindingSink::written(description, description.rules()[clause.rule].node);
    const auto read = [&](PlaceId place, const PatternSymbol& symbol) {
      if (symbol.kind == PatternSymbol::Kind::variable) return;
      Use& use = uses[index_of(place)]
                     .try_emplace(symbol.symbol(), Use{rule, true, &symbol})
                     .first->second;
      use.once = use.once && use.rule == rule;
      writers[{sorts.sort(place), symbol.symbol()}].insert(rule);
    };
    places.visit(description, clause.head, read);
    for (const Literal& literal : clause.body) {
      if (!literal.is_comparison()) places.visit(description, literal.atom, read);
    }
  }
  constexpr std::size_t least = 3;
  std::set<FindingSink::Written> told;
  for (std::uint32_t place = 0; place < uses.size(); ++place) {
    const auto& here = uses[place];
    if (here.size() < least) continue;
    std::size_t numbers = 0;
    for (const auto& [symbol, use] : here) {
      numbers += number_of(description, *use.symbol).has_value() ? 1 : 0;
    }
    if (numbers != 1 && numbers + 1 != here.size()) continue;
    for (const auto& [symbol, use] : here) {
      if (writers[{sorts.sort(PlaceId{place}), symbol}].size() > 1) continue;
      const bool is_number = number_of(description, *use.symbol).has_value();
      if (is_number != (numbers == 1) || !use.once || !told.insert(use.rule).second) continue;
      const std::string& name = description.terms().name(symbol);
      sink.add(use.symbol->node, "odd-constant",
               is_number ? fmt::format("{} is the only number that stands at this argument", name)
                         : fmt::format("`{}` stands at this argument among numbers only", name),
               "check the order of the arguments");
    }
  }
}

}  // namespace orchard::rules
