#include "cli/chart_files.hpp"

#include "base/file.hpp"
#include "orchard/png.hpp"

namespace orchard::cli {

Diagnostics write_charts(const Call& call, const std::string& svg) {
  Diagnostics faults;
  if (const auto file = call.text("svg")) faults.append(write_whole_file(*file, svg));
  if (const auto file = call.text("png")) {
    constexpr double scale = 1.5;
    const auto png = to_png(svg, scale);
    faults.append(png ? write_whole_file(*file, *png) : png.diagnostics());
  }
  return faults;
}

}  // namespace orchard::cli
