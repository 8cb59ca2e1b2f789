#include "logic/table.hpp"

#include <algorithm>
#include <numeric>

namespace orchard::logic {

Table::Table(std::uint32_t arity) : arity_(arity) {
  std::vector<std::uint32_t> all(arity);
  std::iota(all.begin(), all.end(), 0u);
  indexes_.push_back({std::move(all), {}, {}});
}

std::uint32_t Table::hash_of_row(const Index& index, std::uint32_t number) const {
  const TermId* cells = row(number);
  std::uint64_t value = 0;
  for (const std::uint32_t column : index.columns) value = step(value, cells[column]);
  return finish(value);
}

void Table::link(Index& index, std::uint32_t number) {
  Head& head = index.heads[hash_of_row(index, number) & (index.heads.size() - 1)];
  index.chain[number] = head.stamp == stamp_ ? head.row : no_row;
  head = {stamp_, number};
}

std::uint32_t Table::index_on(std::span<const std::uint32_t> columns) {
  for (std::uint32_t i = 0; i < indexes_.size(); ++i) {
    if (std::ranges::equal(indexes_[i].columns, columns)) return i;
  }
  Index index{{columns.begin(), columns.end()}, {}, {}};
  index.heads.assign(indexes_.front().heads.size(), {});
  index.chain.resize(rows_);
  for (std::uint32_t number = 0; number < rows_; ++number) link(index, number);
  indexes_.push_back(std::move(index));
  return static_cast<std::uint32_t>(indexes_.size() - 1);
}

std::uint32_t Table::find(const TermId* wanted, std::uint32_t row_hash) const {
  for (std::uint32_t number = first(0, row_hash); number != no_row; number = next(0, number)) {
    if (std::equal(wanted, wanted + arity_, row(number))) return number;
  }
  return no_row;
}

void Table::grow() {
  const std::size_t size = std::max<std::size_t>(8, indexes_.front().heads.size() * 2);
  for (Index& index : indexes_) {
    index.heads.assign(size, {});
    for (std::uint32_t number = 0; number < rows_; ++number) link(index, number);
  }
}

bool Table::insert(const TermId* wanted) {
  if (find(wanted, hash(wanted, arity_)) != no_row) return false;
  if (rows_ >= indexes_.front().heads.size()) grow();
  cells_.insert(cells_.end(), wanted, wanted + arity_);
  const std::uint32_t number = rows_++;
  for (Index& index : indexes_) {
    index.chain.push_back(no_row);
    link(index, number);
  }
  return true;
}

void Table::clear() {
  if (rows_ == 0) return;
  for (Index& index : indexes_) index.chain.clear();
  cells_.clear();
  rows_ = 0;
  if (++stamp_ != 0) return;
  stamp_ = 1;  // after 2³² clears old heads would seem new
  for (Index& index : indexes_) std::ranges::fill(index.heads, Head{});
}

}  // namespace orchard::logic
