#include "solve/matrix_game.hpp"

#include <ClpSimplex.hpp>

#include <algorithm>
#include <limits>

namespace orchard::solve_inner {
namespace {

constexpr double rounding = 1e-9;

// The row player's shares: maximise v with, for each column, the sum of share times gain ≥ v.
std::vector<double> best_rows(const std::vector<std::vector<double>>& gains, double& value) {
  const int rows = static_cast<int>(gains.size());
  const int columns = static_cast<int>(gains.front().size());
  ClpSimplex program;
  program.setLogLevel(0);
  program.resize(0, rows + 1);
  for (int r = 0; r < rows; ++r) {
    program.setColumnBounds(r, 0, 1);
    program.setObjectiveCoefficient(r, 0);
  }
  program.setColumnBounds(rows, -COIN_DBL_MAX, COIN_DBL_MAX);
  program.setObjectiveCoefficient(rows, 1);
  program.setOptimizationDirection(-1);
  std::vector<int> where(static_cast<std::size_t>(rows) + 1);
  for (int i = 0; i <= rows; ++i) where[static_cast<std::size_t>(i)] = i;
  for (int c = 0; c < columns; ++c) {
    std::vector<double> line;
    for (const auto& row : gains) line.push_back(row[static_cast<std::size_t>(c)]);
    line.push_back(-1);
    program.addRow(rows + 1, where.data(), line.data(), 0, COIN_DBL_MAX);
  }
  std::vector<double> ones(static_cast<std::size_t>(rows), 1);
  program.addRow(rows, where.data(), ones.data(), 1, 1);
  program.primal();
  const double* solution = program.primalColumnSolution();
  value = solution[rows];
  std::vector<double> shares(solution, solution + rows);
  double sum = 0;
  for (double& share : shares) {
    if (share < rounding) share = 0;
    sum += share;
  }
  for (double& share : shares) share /= sum;
  return shares;
}

}  // namespace

MixedPlay solve_matrix(const std::vector<std::vector<double>>& gains) {
  const std::size_t rows = gains.size();
  const std::size_t columns = gains.front().size();
  MixedPlay play;
  // A saddle: least in its row and most in its column.
  std::vector<double> row_least(rows, std::numeric_limits<double>::infinity());
  std::vector<double> column_most(columns, -std::numeric_limits<double>::infinity());
  for (std::size_t r = 0; r < rows; ++r) {
    for (std::size_t c = 0; c < columns; ++c) {
      row_least[r] = std::min(row_least[r], gains[r][c]);
      column_most[c] = std::max(column_most[c], gains[r][c]);
    }
  }
  const double safe = *std::ranges::max_element(row_least);
  const double ceiling = *std::ranges::min_element(column_most);
  if (ceiling - safe <= rounding) {
    play.value = safe;
    const auto even = [](const std::vector<double>& of, double wanted) {
      std::vector<double> shares;
      double count = 0;
      for (const double next : of) {
        shares.push_back(next >= wanted - rounding && next <= wanted + rounding ? 1 : 0);
        count += shares.back();
      }
      for (double& share : shares) share /= count;
      return shares;
    };
    play.rows = even(row_least, safe);
    play.columns = even(column_most, ceiling);
    return play;
  }
  play.rows = best_rows(gains, play.value);
  std::vector<std::vector<double>> other(columns, std::vector<double>(rows));
  for (std::size_t r = 0; r < rows; ++r) {
    for (std::size_t c = 0; c < columns; ++c) other[c][r] = -gains[r][c];
  }
  double value_of_other = 0;
  play.columns = best_rows(other, value_of_other);
  return play;
}

}  // namespace orchard::solve_inner
