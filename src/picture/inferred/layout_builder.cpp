// How a board is recognised.
//
// Two arguments of a fluent can be coordinates if their values are ordered (numbers, or a chain
// such as above(3,2) above(2,1) over names of that sort) and if in some position two fluents of
// the name share a row and two share a column: that tells (square 2 3 bare) from (score 2 3),
// which has one pair of values at a time. Chains say in which direction a coordinate runs: a chain
// is read from its head, so (above 2 1) puts row 2 over row 1, and (left_of 1 2) column 1 before
// column 2. Numbers without a chain run upwards from the top and from the left.
#include "picture/inferred/layout_builder.hpp"

#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <set>

#include "game/random_line.hpp"
#include "picture/inferred/glyphs.hpp"
#include "syntax/names.hpp"

namespace orchard {

using rules::Sorts;
using rules::SymbolId;

namespace {

constexpr std::uint64_t sample_seed = 1;
constexpr int sample_lines = 20;
constexpr int sample_positions = 400;
constexpr std::uint32_t most_declared = 200'000;  // more declared fluents are not looked at
constexpr std::size_t longest_side = 200;         // a longer board is a list, not a picture
constexpr std::size_t shortest_track = 3;

}  // namespace

void LayoutBuilder::run() {
  find_chains();
  collect_fluents();
  add_grids();
  add_tracks();
  for (std::size_t i = 0; i < layout_.boards_.size(); ++i) finish(layout_.boards_[i], i);
}

// The order of a two-column table whose rows form one path, from its head; none otherwise.
std::optional<std::vector<TermId>> LayoutBuilder::chain_of(const logic::Table& table) const {
  absl::flat_hash_map<TermId, TermId> after;
  absl::flat_hash_set<TermId> has_before;
  for (std::uint32_t row = 0; row < table.rows(); ++row) {
    const TermId* pair = table.row(row);
    if (!after.try_emplace(pair[0], pair[1]).second) return std::nullopt;
    if (!has_before.insert(pair[1]).second) return std::nullopt;
  }
  std::vector<TermId> order;
  for (std::uint32_t row = 0; row < table.rows(); ++row) {
    const TermId first = table.row(row)[0];
    if (has_before.contains(first)) continue;
    if (!order.empty()) return std::nullopt;  // a second path
    order.push_back(first);
  }
  if (order.empty()) return std::nullopt;
  for (auto next = after.find(order.back()); next != after.end(); next = after.find(order.back())) {
    order.push_back(next->second);
  }
  if (order.size() != table.rows() + 1) return std::nullopt;
  return order;
}

void LayoutBuilder::find_chains() {
  const logic::Program& program = core_.program();
  const auto& relations = program.description().relations();
  for (std::size_t r = 0; r < relations.size(); ++r) {
    const rules::Relation& relation = relations[r];
    const auto id = rules::RelationId{static_cast<std::uint32_t>(r)};
    const logic::TableId table = program.table(id);
    if (relation.arity != 2 || relation.keyword != rules::Keyword::none ||
        program.tables()[r].phase != rules::Phase::constant) {
      continue;
    }
    const auto first = layout_.sorts_.sort(Sorts::Owner::relation, relation.name, 2, 0);
    const auto second = layout_.sorts_.sort(Sorts::Owner::relation, relation.name, 2, 1);
    if (!first || !second) continue;
    if (auto order = chain_of(program.prepared_table(table))) {
      chains_.push_back({*first, *second, std::move(*order)});
    }
  }
  std::ranges::stable_sort(
      chains_, [](const Chain& a, const Chain& b) { return a.order.size() > b.order.size(); });
}

LayoutBuilder::FluentName& LayoutBuilder::fluent_name(TermId fluent) {
  const auto& entry = core_.terms()[fluent];
  const auto [known, is_new] = by_name_.try_emplace({entry.symbol, entry.arity}, fluents_.size());
  if (is_new) fluents_.push_back({entry.symbol, entry.arity, {}, {}});
  return fluents_[known->second];
}

void LayoutBuilder::add_sample(std::span<const TermId> fluents) {
  absl::flat_hash_set<FluentName*> begun;
  std::vector<std::vector<TermId>> by_name(fluents_.size());
  for (const TermId fluent : fluents) {
    const std::size_t index = static_cast<std::size_t>(&fluent_name(fluent) - fluents_.data());
    if (index >= by_name.size()) by_name.resize(index + 1);
    by_name[index].push_back(fluent);
  }
  for (std::size_t i = 0; i < by_name.size(); ++i) {
    if (!by_name[i].empty()) fluents_[i].together.push_back(std::move(by_name[i]));
  }
}

void LayoutBuilder::collect_fluents() {
  const logic::Program& program = core_.program();
  GameCore::Lease evaluator(core_);
  try {
    add_sample(program.initial());
    Random random(sample_seed);
    int positions = 0;
    for (int line = 0; line < sample_lines && positions < sample_positions; ++line) {
      random_line(*evaluator, program.initial(), random, sample_positions,
                  [&](const LinePosition& at) {
                    add_sample(*at.fluents);
                    return ++positions < sample_positions;
                  });
    }
    if (const auto base = program.description().find(rules::Keyword::base)) {
      evaluator->set_position({});
      const logic::Table& table = evaluator->reference().instances(*base);
      for (std::uint32_t row = 0; row < table.rows() && row < most_declared; ++row) {
        fluent_name(*table.row(row)).declared.push_back(*table.row(row));
      }
    }
  } catch (const logic::LimitExceeded&) {
    // What was met until then has to do.
  }
  for (FluentName& fluents : fluents_) {
    if (!fluents.declared.empty()) continue;
    for (const auto& position : fluents.together) {
      fluents.declared.insert(fluents.declared.end(), position.begin(), position.end());
    }
    std::ranges::sort(fluents.declared);
    fluents.declared.erase(std::unique(fluents.declared.begin(), fluents.declared.end()),
                           fluents.declared.end());
  }
}

std::optional<Sorts::Sort> LayoutBuilder::sort_of(const FluentName& fluents,
                                                  std::uint32_t argument) const {
  return layout_.sorts_.sort(Sorts::Owner::fluent, fluents.name, fluents.arity, argument);
}

// Values in the order of the longest chain of their sort that holds them all, else as numbers.
std::vector<TermId> LayoutBuilder::in_order(std::vector<TermId> values,
                                            std::optional<Sorts::Sort> sort) const {
  const absl::flat_hash_set<TermId> wanted(values.begin(), values.end());
  for (const Chain& chain : chains_) {
    if (!sort || !chain.is_of(*sort)) continue;
    std::vector<TermId> result;
    for (const TermId id : chain.order) {
      if (wanted.contains(id)) result.push_back(id);
    }
    if (result.size() == wanted.size()) return result;
  }
  std::ranges::sort(values, [&](TermId a, TermId b) { return core_.program().compare(a, b) < 0; });
  return values;
}

// The different values of an argument, if they have an order and are no more than fit a side.
std::optional<std::vector<TermId>> LayoutBuilder::ordered_values(const FluentName& fluents,
                                                                 std::uint32_t argument) const {
  absl::flat_hash_set<TermId> seen;
  std::vector<TermId> values;
  for (const TermId fluent : fluents.declared) {
    const TermId value = core_.terms()[fluent].arguments[argument];
    if (seen.insert(value).second) values.push_back(value);
    if (values.size() > longest_side) return std::nullopt;
  }
  if (values.empty()) return std::nullopt;
  const bool numbers = std::ranges::all_of(values, [&](TermId id) {
    const auto& entry = core_.terms()[id];
    return entry.arity == 0 && integer_value(core_.terms().name(entry.symbol)).has_value();
  });
  if (numbers) return values;
  const auto sort = sort_of(fluents, argument);
  for (const Chain& chain : chains_) {
    if (!sort || !chain.is_of(*sort)) continue;
    const absl::flat_hash_set<TermId> chained(chain.order.begin(), chain.order.end());
    const auto inside = [&](TermId id) { return chained.contains(id); };
    if (std::ranges::all_of(values, inside)) return values;
  }
  return std::nullopt;
}

bool LayoutBuilder::is_grid_like(const FluentName& fluents, std::uint32_t row,
                                 std::uint32_t column) const {
  bool shared_row = false;
  bool shared_column = false;
  for (const auto& position : fluents.together) {
    absl::flat_hash_map<TermId, TermId> column_of_row;
    absl::flat_hash_map<TermId, TermId> row_of_column;
    for (const TermId fluent : position) {
      const TermId* arguments = core_.terms()[fluent].arguments;
      const TermId r = arguments[row];
      const TermId c = arguments[column];
      shared_row = shared_row || column_of_row.try_emplace(r, c).first->second != c;
      shared_column = shared_column || row_of_column.try_emplace(c, r).first->second != r;
    }
    if (shared_row && shared_column) return true;
  }
  return false;
}

// Pairs of the same sort of things with a number are squares if they fill a good part of the grid
// at first, or if a move names two of them; else they count what happened between things: (seen 4 0
// 1), say, how often crow and scarecrow stood so.
bool LayoutBuilder::may_be_squares(const FluentName& fluents, std::uint32_t row,
                                   std::uint32_t column) const {
  const auto sort = sort_of(fluents, row);
  if (!sort || sort != sort_of(fluents, column)) return true;
  absl::flat_hash_set<TermId> things;
  for (const TermId fluent : fluents.declared) {
    things.insert(core_.terms()[fluent].arguments[row]);
    things.insert(core_.terms()[fluent].arguments[column]);
  }
  const std::size_t first = fluents.together.empty() ? 0 : fluents.together.front().size();
  if (first * 4 >= things.size() * things.size()) return true;
  const rules::Description& description = core_.program().description();
  const auto legal = description.find(rules::Keyword::legal);
  if (!legal) return true;
  return std::ranges::any_of(description.clauses(), [&](const rules::Clause& clause) {
    if (clause.head.relation != *legal) return false;
    const rules::Pattern& arguments = clause.head.arguments;
    const rules::PatternSymbol& move = arguments[arguments[0].size];
    if (move.kind == rules::PatternSymbol::Kind::variable) return true;
    int named = 0;
    for (std::uint32_t a = 0; a < move.arity; ++a) {
      named += layout_.sorts_.sort(Sorts::Owner::move, move.symbol(), move.arity, a) == sort;
    }
    return named >= 2;
  });
}

void LayoutBuilder::add_source(const FluentName& fluents, std::optional<std::uint32_t> row,
                               std::uint32_t column) {
  const auto row_sort = row ? sort_of(fluents, *row) : std::nullopt;
  const auto column_sort = sort_of(fluents, column);
  const auto found = std::ranges::find_if(layout_.boards_, [&](const BoardLayout& board) {
    return board.row_sort == row_sort && board.column_sort == column_sort &&
           board.sources.front().row.has_value() == row.has_value();
  });
  BoardLayout& board = found == layout_.boards_.end() ? layout_.boards_.emplace_back() : *found;
  board.row_sort = row_sort;
  board.column_sort = column_sort;
  board.sources.push_back({fluents.name, fluents.arity, row, column});
}

// First the names with a content beside the coordinates; then names of two arguments, which are
// marks on the squares of such a board or, if they look like a grid themselves, a board.
void LayoutBuilder::add_grids() {
  for (const bool with_content : {true, false}) {
    for (const FluentName& fluents : fluents_) {
      if (fluents.arity < 2 || (fluents.arity > 2) != with_content) continue;
      std::vector<std::uint32_t> ordered;
      for (std::uint32_t a = 0; a < fluents.arity && ordered.size() < 3; ++a) {
        if (ordered_values(fluents, a)) ordered.push_back(a);
      }
      if (ordered.size() < 2) continue;
      const bool marks = std::ranges::any_of(layout_.boards_, [&](const BoardLayout& board) {
        return board.row_sort && board.row_sort == sort_of(fluents, ordered[0]) &&
               board.column_sort == sort_of(fluents, ordered[1]);
      });
      if (marks || (is_grid_like(fluents, ordered[0], ordered[1]) &&
                    (ordered.size() < 3 || may_be_squares(fluents, ordered[0], ordered[1])))) {
        add_source(fluents, ordered[0], ordered[1]);
      }
    }
  }
}

// (pole 3 crow): one ordered argument that numbers places, each with one content at the start.
void LayoutBuilder::add_tracks() {
  for (const FluentName& fluents : fluents_) {
    if (fluents.arity != 2 || fluents.together.empty()) continue;
    const bool on_grid = std::ranges::any_of(layout_.boards_, [&](const BoardLayout& board) {
      return std::ranges::any_of(board.sources, [&](const BoardSource& source) {
        return source.name == fluents.name && source.arity == fluents.arity;
      });
    });
    if (on_grid) continue;
    if (!ordered_values(fluents, 0)) continue;
    absl::flat_hash_set<TermId> places;
    bool once_each = true;
    for (const TermId fluent : fluents.together.front()) {
      once_each = places.insert(core_.terms()[fluent].arguments[0]).second && once_each;
    }
    if (once_each && places.size() >= shortest_track) add_source(fluents, std::nullopt, 0);
  }
}

void LayoutBuilder::finish(BoardLayout& board, std::size_t number) {
  absl::flat_hash_set<TermId> rows;
  absl::flat_hash_set<TermId> columns;
  std::map<Content, bool> contents;
  for (std::size_t s = 0; s < board.sources.size(); ++s) {
    const BoardSource& source = board.sources[s];
    for (const TermId fluent : fluents_[by_name_.at({source.name, source.arity})].declared) {
      const auto& entry = core_.terms()[fluent];
      if (source.row) rows.insert(entry.arguments[*source.row]);
      columns.insert(entry.arguments[source.column]);
      Content content{s, {}};
      for (std::uint32_t a = 0; a < entry.arity; ++a) {
        if (!source.stands(a)) content.terms.push_back(entry.arguments[a]);
      }
      contents.emplace(std::move(content), true);
    }
  }
  board.rows = in_order({rows.begin(), rows.end()}, board.row_sort);
  board.columns = in_order({columns.begin(), columns.end()}, board.column_sort);
  if (board.rows.empty()) board.rows.push_back(rules::no_term);
  hide_border(board);
  for (std::size_t i = 0; i < board.rows.size(); ++i) board.row_index[board.rows[i]] = i;
  for (std::size_t i = 0; i < board.columns.size(); ++i) board.column_index[board.columns[i]] = i;
  find_bare(board, number);
  std::vector<Content> shown;
  for (const auto& [content, unused] : contents) {
    if (content != board.bare && content != board.border) shown.push_back(content);
  }
  board.glyphs = choose_glyphs(core_, board, shown);
  for (const auto& [content, glyph] : board.glyphs) {
    board.glyph_width = std::max(board.glyph_width, character_count(glyph.text));
  }
}

// Rules often put a ring of squares round a board that nothing can enter, so that every square has
// neighbours. Outer rows and columns that hold one content, which stands nowhere but on squares
// that never change in sampled play, are such helpers.
void LayoutBuilder::hide_border(BoardLayout& board) {
  std::map<std::pair<TermId, TermId>, std::set<Content>> held;  // by row and column
  for (std::size_t s = 0; s < board.sources.size(); ++s) {
    const BoardSource& source = board.sources[s];
    if (!source.row) return;
    for (const auto& position : fluents_[by_name_.at({source.name, source.arity})].together) {
      for (const TermId fluent : position) {
        const auto& entry = core_.terms()[fluent];
        Content content{s, {}};
        for (std::uint32_t a = 0; a < entry.arity; ++a) {
          if (!source.stands(a)) content.terms.push_back(entry.arguments[a]);
        }
        held[{entry.arguments[*source.row], entry.arguments[source.column]}].insert(content);
      }
    }
  }
  std::set<Content> changing;  // what stands on a square that changes
  for (const auto& [place, contents] : held) {
    if (contents.size() > 1) changing.insert(contents.begin(), contents.end());
  }
  const auto is_helper = [&](TermId row, TermId column) {
    const auto at = held.find({row, column});
    if (at == held.end() || at->second.size() != 1) return false;
    const Content& content = *at->second.begin();
    if (content.terms.empty() || changing.contains(content)) return false;
    if (!board.border) board.border = content;
    return content == board.border;
  };
  const auto peel = [&](std::vector<TermId>& lines, const std::vector<TermId>& across, bool rows,
                        absl::flat_hash_set<TermId>& hidden) {
    for (const bool last : {false, true}) {
      while (lines.size() > 2) {
        const TermId line = last ? lines.back() : lines.front();
        const bool helper = std::ranges::all_of(across, [&](TermId other) {
          return rows ? is_helper(line, other) : is_helper(other, line);
        });
        if (!helper) break;
        hidden.insert(line);
        lines.erase(last ? lines.end() - 1 : lines.begin());
      }
    }
  };
  if (changing.empty()) return;  // nothing is known of what changes
  const std::vector<TermId> all_rows = board.rows;
  const std::vector<TermId> all_columns = board.columns;
  peel(board.rows, all_columns, true, board.border_rows);
  peel(board.columns, all_rows, false, board.border_columns);
  // One side alone may as well be a part of the board that nobody has reached.
  if (board.border_rows.size() < 2 || board.border_columns.size() < 2) {
    board.rows = all_rows;
    board.columns = all_columns;
    board.border_rows.clear();
    board.border_columns.clear();
    board.border.reset();
  }
}

void LayoutBuilder::find_bare(BoardLayout& board, std::size_t number) {
  std::map<Content, std::size_t> counts;
  std::map<Square, int> filled;
  for (const TermId fluent : core_.program().initial()) {
    const auto placed = layout_.place(core_, fluent);
    if (!placed || placed->square.board != number) continue;
    ++counts[placed->content];
    filled[placed->square] = 1;
  }
  const std::size_t squares = board.rows.size() * board.columns.size();
  board.always_filled = filled.size() == squares;
  std::size_t most = 0;
  for (const auto& [content, count] : counts) {
    if (count < most || content.terms.empty()) continue;
    board.bare = count > most && count * 2 >= squares ? std::optional(content) : std::nullopt;
    most = count;
  }
}

}  // namespace orchard
