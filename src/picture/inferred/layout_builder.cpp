// How a board is recognised.
//
// Two parts of a fluent can be coordinates if their values are ordered (numbers, or a chain
// such as above(3,2) above(2,1) over names of that sort) and if in some position two fluents of
// the name share a row and two share a column: that tells (square 2 3 bare) from (score 2 3),
// which has one pair of values at a time. Chains say in which direction a coordinate runs: a chain
// is read from its head, so (above 2 1) puts row 2 over row 1, and (left_of 1 2) column 1 before
// column 2. Numbers without a chain run upwards from the top and from the left. Names before
// numbers are columns before rows, and the numbers run upwards: (cell c 3) is read as on labelled
// boards.
//
// One ordered part can name the places of a board: if each has one content at the start, or if the
// rules have lines of three and more places. Where lines or neighbours say so, such places stand
// in rows of their own: nine of them with the lines (1 2 3) and (1 4 7) as three by three.
#include "picture/inferred/layout_builder.hpp"

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>

#include <algorithm>
#include <array>
#include <set>

#include "picture/inferred/glyphs.hpp"

namespace orchard {

using rules::Sorts;

namespace {

constexpr std::size_t shortest_track = 3;
constexpr std::size_t most_ordered = 4;  // parts that are tried as coordinates

std::set<Sorts::Sort> sorts_of(const BoardLayout& board) {
  std::set<Sorts::Sort> sorts;
  if (board.row_sort) sorts.insert(*board.row_sort);
  if (board.column_sort) sorts.insert(*board.column_sort);
  return sorts;
}

}  // namespace

void LayoutBuilder::run() {
  add_grids();
  add_pieces();
  add_tracks();
  give_owners();
  for (BoardLayout& board : boards_) {
    find_sides(board);
    hide_border(board);
    for (std::size_t i = 0; i < board.rows.size(); ++i) board.row_index[board.rows[i]] = i;
    for (std::size_t i = 0; i < board.columns.size(); ++i) board.column_index[board.columns[i]] = i;
    if (!board.sources.front().row) fold(board);
  }
  name_boards();
  for (std::size_t i = 0; i < boards_.size(); ++i) {
    find_bare(boards_[i], i);
    choose_signs(boards_[i]);
  }
}

// The parts whose values have an order and are no more than fit a side.
std::vector<Part> LayoutBuilder::ordered_parts(const FluentName& fluents) const {
  std::vector<Part> result;
  for (const Part& part : fluents.parts) {
    if (result.size() == most_ordered) break;
    const std::vector<TermId> values = samples_.values(fluents, part);
    if (values.size() > longest_side || !orders_.orders(values, part.sort)) continue;
    // Roles in the order of their turns are no side of a board.
    const bool roles = std::ranges::all_of(values, [&](TermId id) {
      return std::ranges::any_of(
          core_.roles(), [&](const Role& role) { return core_.terms().text(id) == role.name(); });
    });
    if (!roles) result.push_back(part);
  }
  return result;
}

// Whether the two are all that a function within the fluent says: (stands dog (at 2 3)).
bool LayoutBuilder::are_one_place(const FluentName& fluents, const Part& row,
                                  const Part& column) const {
  if (row.path.size() < 2 || row.path.size() != column.path.size()) return false;
  const auto inside = [&](const Path& path) {
    return path.size() == row.path.size() &&
           std::equal(path.begin(), path.end() - 1, row.path.begin());
  };
  return inside(column.path) && std::ranges::count_if(fluents.parts, inside, &Part::path) == 2;
}

bool LayoutBuilder::is_grid_like(const FluentName& fluents, const Part& row,
                                 const Part& column) const {
  if (are_one_place(fluents, row, column)) return true;
  bool shared_row = false;
  bool shared_column = false;
  for (const auto& position : fluents.together) {
    absl::flat_hash_map<TermId, TermId> column_of_row;
    absl::flat_hash_map<TermId, TermId> row_of_column;
    for (const TermId fluent : position) {
      const TermId r = part_at(core_.terms(), fluent, row.path);
      const TermId c = part_at(core_.terms(), fluent, column.path);
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
bool LayoutBuilder::may_be_squares(const FluentName& fluents, const Part& row,
                                   const Part& column) const {
  if (!row.sort || row.sort != column.sort) return true;
  absl::flat_hash_set<TermId> things;
  for (const Part* part : {&row, &column}) {
    for (const TermId value : samples_.values(fluents, *part)) things.insert(value);
  }
  const std::size_t first = fluents.together.empty() ? 0 : fluents.together.front().size();
  if (first * 4 >= things.size() * things.size() || samples_.moves().empty()) return true;
  return std::ranges::any_of(samples_.moves(), [&](const MoveName& move) {
    return std::ranges::count(move.parts, row.sort, &Part::sort) >= 2;
  });
}

// One value for each row or for each column, always: (height a 2), say, how high a column is.
bool LayoutBuilder::counts_along(const FluentName& fluents, const Part& row,
                                 const Part& column) const {
  return std::ranges::any_of(std::array{&row, &column}, [&](const Part* along) {
    const std::size_t values = samples_.values(fluents, *along).size();
    return values > 1 && std::ranges::all_of(fluents.together, [&](const auto& position) {
             absl::flat_hash_set<TermId> met;
             for (const TermId fluent : position) {
               met.insert(part_at(core_.terms(), fluent, along->path));
             }
             return met.size() == position.size() && met.size() == values;
           });
  });
}

BoardLayout& LayoutBuilder::add_source(const FluentName& fluents, const Part* row,
                                       const Part& column) {
  const auto row_sort = row ? row->sort : std::nullopt;
  const auto found = std::ranges::find_if(boards_, [&](const BoardLayout& board) {
    return board.row_sort == row_sort && board.column_sort == column.sort &&
           board.sources.front().row.has_value() == (row != nullptr);
  });
  BoardLayout& board = found == boards_.end() ? boards_.emplace_back() : *found;
  board.row_sort = row_sort;
  board.column_sort = column.sort;
  BoardSource source{fluents.name, fluents.arity, {}, column.path, {}, {}};
  if (row) source.row = row->path;
  for (const Part& part : fluents.parts) {
    if (part.path != column.path && part.path != source.row) source.contents.push_back(part.path);
  }
  board.sources.push_back(std::move(source));
  return board;
}

// First the names with a content beside the coordinates; then names of two parts, which are
// marks on the squares of such a board or, if they look like a grid themselves, a board.
void LayoutBuilder::add_grids() {
  for (const bool with_content : {true, false}) {
    for (const FluentName& fluents : samples_.fluents()) {
      if (fluents.parts.size() < 2 || (fluents.parts.size() > 2) != with_content) continue;
      const std::vector<Part> ordered = ordered_parts(fluents);
      if (ordered.size() < 2) continue;
      const Part* row = &ordered[0];
      const Part* column = &ordered[1];
      const bool numbers_last = !orders_.are_numbers(samples_.values(fluents, *row)) &&
                                orders_.are_numbers(samples_.values(fluents, *column));
      if (numbers_last) std::swap(row, column);
      const bool marks = std::ranges::any_of(boards_, [&](const BoardLayout& board) {
        return board.row_sort && board.row_sort == row->sort && board.column_sort == column->sort;
      });
      const bool squares = is_grid_like(fluents, *row, *column) &&
                           (ordered.size() < 3 || may_be_squares(fluents, *row, *column));
      if (marks ? !(fluents.parts.size() == 2 && counts_along(fluents, *row, *column)) : squares) {
        BoardLayout& board = add_source(fluents, row, *column);
        // As on labelled boards the numbers run upwards, whichever way they are counted.
        board.numbers_upwards = board.numbers_upwards || numbers_last;
      }
    }
  }
}

bool LayoutBuilder::named_by_a_move(const Part& first, const Part& second) const {
  return first.sort && second.sort &&
         std::ranges::any_of(samples_.moves(), [&](const MoveName& move) {
           for (std::size_t p = 1; p < move.parts.size(); ++p) {
             if (move.parts[p - 1].sort == first.sort && move.parts[p].sort == second.sort) {
               return true;
             }
           }
           return false;
         });
}

// Pieces that have a fluent each, (hare 3 4) and (fox 1 1): no two of a name tell of rows and
// columns, but a move names the two parts as a square.
void LayoutBuilder::add_pieces() {
  for (const FluentName& fluents : samples_.fluents()) {
    if (fluents.parts.size() != 2 || is_on_a_board(fluents)) continue;
    const std::vector<Part> ordered = ordered_parts(fluents);
    if (ordered.size() == 2 && named_by_a_move(ordered[0], ordered[1]) &&
        !counts_along(fluents, ordered[0], ordered[1])) {
      add_source(fluents, &ordered[0], ordered[1]);
    }
  }
}

bool LayoutBuilder::is_on_a_board(const FluentName& fluents) const {
  return std::ranges::any_of(boards_, [&](const BoardLayout& board) {
    return std::ranges::any_of(board.sources, [&](const BoardSource& source) {
      return source.name == fluents.name && source.arity == fluents.arity;
    });
  });
}

const Part* LayoutBuilder::part_of_sort(const FluentName& fluents, Sort sort) const {
  const Part* result = nullptr;
  for (const Part& part : fluents.parts) {
    if (part.sort != sort) continue;
    if (result != nullptr) return nullptr;  // of two, neither is the place
    result = &part;
  }
  return result;
}

// Whether the first parts of these fluents are places that hold at most one thing, always, and at
// the start three at least.
bool LayoutBuilder::once_each(const std::vector<const FluentName*>& names) const {
  for (const std::vector<TermId>& position : samples_.positions()) {
    absl::flat_hash_set<TermId> places;
    for (const TermId fluent : position) {
      const auto& entry = core_.terms()[fluent];
      const auto of = std::ranges::find_if(names, [&](const FluentName* name) {
        return name->name == entry.symbol && name->arity == entry.arity;
      });
      if (of == names.end()) continue;
      if (!places.insert(part_at(core_.terms(), fluent, (*of)->parts[0].path)).second) return false;
    }
    if (&position == &samples_.positions().front() && places.size() < shortest_track) return false;
  }
  return !names.empty();
}

// The fluents that together say what the places of a sort hold, (bed 3 tulip) or (free 3); else one
// that does by itself.
std::vector<const FluentName*> LayoutBuilder::fillers(Sort sort) const {
  std::vector<const FluentName*> all;
  for (const FluentName& fluents : samples_.fluents()) {
    if (fluents.parts.empty() || fluents.parts.size() > 2 || is_on_a_board(fluents)) continue;
    if (fluents.parts[0].sort == sort) all.push_back(&fluents);
  }
  if (once_each(all)) return all;
  std::erase_if(all, [&](const FluentName* name) {
    return name->parts.size() != 2 || !name->at_first || !once_each({name});
  });
  return all;
}

// What never changes and has all its arguments of one sort: lines, neighbours.
std::vector<const logic::Table*> LayoutBuilder::tables_over(Sort sort,
                                                            std::uint32_t least_arity) const {
  std::vector<const logic::Table*> result;
  const logic::Program& program = core_.program();
  const auto& relations = program.description().relations();
  for (std::size_t r = 0; r < relations.size(); ++r) {
    const rules::Relation& relation = relations[r];
    const auto id = rules::RelationId{static_cast<std::uint32_t>(r)};
    if (relation.arity < least_arity || relation.keyword != rules::Keyword::none ||
        program.tables()[r].phase != rules::Phase::constant || orders_.is_chain(id)) {
      continue;
    }
    bool all = true;
    for (std::uint32_t a = 0; a < relation.arity && all; ++a) {
      all = layout_.sorts_.sort(Sorts::Owner::relation, relation.name, relation.arity, a) == sort;
    }
    const logic::Table& table = program.prepared_table(program.table(id));
    if (all && table.rows() > 1) result.push_back(&table);
  }
  return result;
}

bool LayoutBuilder::has_lines(Sort sort) const {
  const bool named_by_moves = std::ranges::any_of(samples_.moves(), [&](const MoveName& move) {
    return std::ranges::find(move.parts, std::optional(sort), &Part::sort) != move.parts.end();
  });
  return named_by_moves && !tables_over(sort, 3).empty();
}

void LayoutBuilder::add_tracks() {
  std::set<Sort> looked_at;
  for (const BoardLayout& board : boards_) looked_at.merge(sorts_of(board));
  for (const FluentName& fluents : samples_.fluents()) {
    for (const Part& part : fluents.parts) {
      // Of a row or column of a grid it would tell something else: how high it is, say.
      if (!part.sort || !looked_at.insert(*part.sort).second) continue;
      std::vector<const FluentName*> names = fillers(*part.sort);
      if (has_lines(*part.sort)) {
        names.clear();
        for (const FluentName& name : samples_.fluents()) {
          if (name.parts.size() <= 3 && part_of_sort(name, *part.sort)) names.push_back(&name);
        }
      }
      for (const FluentName* name : names) {
        const Part* place = part_of_sort(*name, *part.sort);
        if (place == nullptr || is_on_a_board(*name)) continue;
        const std::vector<TermId> values = samples_.values(*name, *place);
        if (values.size() <= longest_side && orders_.orders(values, part.sort)) {
          add_source(*name, nullptr, *place);
        }
      }
    }
  }
}

// Where everybody has a board: (plot ann 2 3 wild) and (plot bob 2 3 wild) at the same time.
std::optional<Path> LayoutBuilder::owner_in(const BoardLayout& board) const {
  if (board.sources.size() != 1) return std::nullopt;
  const BoardSource& source = board.sources.front();
  const FluentName& fluents = samples_.fluent(source.name, source.arity);
  for (const Path& path : source.contents) {
    const bool roles = std::ranges::all_of(fluents.declared, [&](TermId fluent) {
      const std::string name = core_.terms().text(part_at(core_.terms(), fluent, path));
      return std::ranges::any_of(core_.roles(),
                                 [&](const Role& role) { return role.name() == name; });
    });
    if (!roles || fluents.together.empty() || source.contents.size() < 2) continue;
    std::size_t squares = 0;
    std::size_t shared = 0;
    for (const auto& position : fluents.together) {
      std::map<std::pair<TermId, TermId>, std::set<TermId>> owners;
      for (const TermId fluent : position) {
        const TermId row =
            source.row ? part_at(core_.terms(), fluent, *source.row) : rules::no_term;
        owners[{row, part_at(core_.terms(), fluent, source.column)}].insert(
            part_at(core_.terms(), fluent, path));
      }
      squares += owners.size();
      shared += static_cast<std::size_t>(
          std::ranges::count_if(owners, [](const auto& at) { return at.second.size() > 1; }));
    }
    if (shared * 2 >= squares) return path;
  }
  return std::nullopt;
}

void LayoutBuilder::give_owners() {
  std::vector<BoardLayout> result;
  for (BoardLayout& board : boards_) {
    const auto owner = owner_in(board);
    if (!owner) {
      result.push_back(std::move(board));
      continue;
    }
    BoardSource& source = board.sources.front();
    source.owner = *owner;
    std::erase(source.contents, *owner);
    const FluentName& fluents = samples_.fluent(source.name, source.arity);
    std::set<TermId> owners;
    for (const TermId fluent : fluents.declared) {
      owners.insert(part_at(core_.terms(), fluent, *owner));
    }
    for (const Role& role : core_.roles()) {
      const TermId id = core_.terms().find(Term::constant(role.name()));
      if (!owners.contains(id)) continue;
      result.push_back(board);
      result.back().owner = id;
    }
  }
  boards_ = std::move(result);
}

}  // namespace orchard
