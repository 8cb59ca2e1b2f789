// SVG → PNG by librsvg and cairo.
#include <cairo.h>
#include <fmt/core.h>
#include <librsvg/rsvg.h>

#include <memory>

#include "orchard/png.hpp"

namespace orchard {
namespace {

constexpr double most_pixels = 16'000;  // a side

struct Release {
  void operator()(RsvgHandle* handle) const { g_object_unref(handle); }
  void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
  void operator()(cairo_t* cairo) const { cairo_destroy(cairo); }
};

Diagnostic cannot_draw(const std::string& why, std::string remedy = {}) {
  return plain_error("cannot-draw", fmt::format("the picture cannot be drawn: {}", why),
                     std::move(remedy));
}

cairo_status_t append(void* to, const unsigned char* data, unsigned int length) {
  static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(data), length);
  return CAIRO_STATUS_SUCCESS;
}

}  // namespace

Result<std::string> to_png(const std::string& svg, double scale) {
  GError* error = nullptr;
  const std::unique_ptr<RsvgHandle, Release> handle(
      rsvg_handle_new_from_data(reinterpret_cast<const guint8*>(svg.data()), svg.size(), &error));
  if (!handle) {
    const std::string why = error != nullptr ? error->message : "unknown";
    g_clear_error(&error);
    return cannot_draw(why);
  }
  double width = 0;
  double height = 0;
  rsvg_handle_get_intrinsic_size_in_pixels(handle.get(), &width, &height);
  width *= scale;
  height *= scale;
  if (width < 1 || height < 1 || width > most_pixels || height > most_pixels) {
    return cannot_draw(fmt::format("{:.0f} by {:.0f} pixels", width, height),
                       fmt::format("up to {:.0f} a side can be drawn; show fewer positions, or "
                                   "write SVG",
                                   most_pixels));
  }
  const std::unique_ptr<cairo_surface_t, Release> surface(cairo_image_surface_create(
      CAIRO_FORMAT_ARGB32, static_cast<int>(width + 0.5), static_cast<int>(height + 0.5)));
  const std::unique_ptr<cairo_t, Release> cairo(cairo_create(surface.get()));
  const RsvgRectangle whole{0, 0, width, height};
  if (rsvg_handle_render_document(handle.get(), cairo.get(), &whole, &error) == 0) {
    const std::string why = error != nullptr ? error->message : "unknown";
    g_clear_error(&error);
    return cannot_draw(why);
  }
  std::string png;
  if (cairo_surface_write_to_png_stream(surface.get(), append, &png) != CAIRO_STATUS_SUCCESS) {
    return cannot_draw("out of memory");
  }
  return png;
}

}  // namespace orchard
