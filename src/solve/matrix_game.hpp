// Two who choose at once, with opposed interests.
#pragma once

#include <vector>

namespace orchard::solve_inner {

struct MixedPlay {
  double value = 0;          // for whoever chooses the row
  std::vector<double> rows;  // shares
  std::vector<double> columns;
};

// Optimal mixed play of the matrix of what the row player gets, row by row. A pure answer is given
// where there is one; else by linear programming (CLP), exact to about 1e-9.
MixedPlay solve_matrix(const std::vector<std::vector<double>>& gains);

}  // namespace orchard::solve_inner
