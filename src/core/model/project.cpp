// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/project.h"
#include "core/base/contract.h"

#include <cmath>
#include <numbers>

#include "core/base/numbers.h"
#include "core/base/words.h"

namespace culvert {

#define CULVERT_MADE_HERE(TABLE) template class TABLE;
CULVERT_TABLES(CULVERT_MADE_HERE)
#undef CULVERT_MADE_HERE

Project::Project() {
    Settings s;
    s.id = settings_id;
    settings_rows.insert(s);
}

Project::~Project() = default;
Project::Project(const Project&) = default;
Project::Project(Project&&) noexcept = default;
Project& Project::operator=(const Project&) = default;
Project& Project::operator=(Project&&) noexcept = default;
bool operator==(const Project& a, const Project& b) = default;

Project new_project(UnitSystem system) {
    Project p;
    const bool us = system == UnitSystem::Us;
    constexpr double ft = 0.3048, in = 0.0254, pound_per_square_foot = 47.88;  // Pa
    Settings& s = *p.settings_rows.change(settings_id);
    s.system = system;
    s.edition = us ? Edition::Us : Edition::Si;
    s.bend_loss = usual_bend_loss;
    if (us) {
        s.default_cover = 4 * ft;
        s.default_size = 15 * in;
        s.default_rim = 300 * ft;
        s.default_drop = 0.1 * ft;
    }
    struct Usual {
        LimitKind kind;
        double si, us;
        bool active;
        const char* source;
        EventRole system = EventRole::Other;
    };
    const Usual usual[] = {
        {LimitKind::LeastVelocity, 0.75, 2.5 * ft, true, "usual practice: keeps sand moving"},
        {LimitKind::MostVelocity, 3.0, 10 * ft, true, "usual practice: spares the invert"},
        {LimitKind::LeastSlope, 0.003, 0.003, true, "usual practice"},
        {LimitKind::MostSlope, 0.10, 0.10, true, "usual practice: anchors above it"},
        {LimitKind::LeastCover, 0.9, 3 * ft, true, "usual practice under streets"},
        {LimitKind::MostDepth, 6, 20 * ft, true, "usual practice: open trench"},
        {LimitKind::MostFlowRatio, 1, 1, true, "design flow within full-flow capacity"},
        {LimitKind::MostFilledDepth, 0.94, 0.94, false, "off: the flow ratio is held instead"},
        {LimitKind::MostSurcharge, 0, 0, true, "grade line within the pipe in the design event"},
        {LimitKind::LeastFreeboard, 0.3, 1 * ft, true, "usual practice"},
        {LimitKind::LeastDrop, 0, 0, true, "no outgoing invert above an incoming one"},
        {LimitKind::LeastSize, us ? 0 : 0.3, 15 * in, true, "usual practice for cleaning"},
        {LimitKind::MostSpread, 2.5, 8 * ft, true, "usual practice: gutter and half a lane", EventRole::Minor},
        {LimitKind::MostSpreadShare, 0.5, 0.5, false, "off: the width is held instead", EventRole::Minor},
        {LimitKind::LeastDryWidth, 3, 10 * ft, false, "off: where a lane must stay open for rescue", EventRole::Major},
        {LimitKind::MostStreetDepth, 0.3, 1 * ft, true, "usual practice: cars stay drivable"},
        {LimitKind::MostDepthVelocity, 0.4, 4 * ft * ft, true, "usual practice: people stay on their feet"},
        {LimitKind::MostStreetVelocity, 3, 10 * ft, false,
         "off: where fast water would wash out the edge of the street", EventRole::Major},
        {LimitKind::MostStreetShear, 50, 1 * pound_per_square_foot, false, "off: what the lining of a ditch withstands",
         EventRole::Major},
    };
    std::uint64_t next = 100;
    for (const Usual& u : usual) {
        Limit limit;
        limit.id = next++;
        limit.kind = u.kind;
        limit.value = us ? u.us : u.si;
        limit.active = u.active;
        limit.source = u.source;
        limit.system = u.system;
        p.limits.insert(limit);
    }
    struct UsualClearance {
        LineKind kind;
        double vertical, horizontal;  // m, ft
        double vertical_ft, horizontal_ft;
    };
    const UsualClearance clear[] = {{LineKind::Storm, 0.15, 0.3, 0.5, 1},  {LineKind::Water, 0.45, 3, 1.5, 10},
                                    {LineKind::Gas, 0.3, 1, 1, 3},         {LineKind::Sewer, 0.3, 1, 1, 3},
                                    {LineKind::Electricity, 0.3, 1, 1, 3}, {LineKind::Communication, 0.3, 0.6, 1, 2},
                                    {LineKind::Heat, 0.3, 1, 1, 3},        {LineKind::Duct, 0.15, 0.3, 0.5, 1},
                                    {LineKind::Other, 0.3, 0.6, 1, 2}};
    next = 400;
    for (const UsualClearance& c : clear) {
        Clearance row;
        row.id = next++;
        row.kind = c.kind;
        row.vertical = us ? c.vertical_ft * ft : c.vertical;
        row.horizontal = us ? c.horizontal_ft * ft : c.horizontal;
        row.source = "usual practice; replace it by your authority's";
        p.clearances.insert(row);
    }
    const std::vector<double> mm{0.2,  0.25, 0.3,  0.375, 0.45, 0.525, 0.6, 0.675,
                                 0.75, 0.9,  1.05, 1.2,   1.35, 1.5,   1.8, 2.1};
    const std::vector<double> inches{12, 15, 18, 21, 24, 27, 30, 33, 36, 42, 48, 54, 60, 72, 84};
    next = 200;
    for (double d : us ? inches : mm) {
        PipeSize size;
        size.id = next++;
        size.material = "concrete";
        size.size = us ? d * in : d;
        size.wall = us ? (d / 12 + 1) * in : std::round((0.025 + d / 12) * 1000) / 1000;  // the usual wall: D/12 + 1 in
        p.sizes.insert(size);
    }
    next = 300;
    for (double d : us ? inches : mm) {
        if (d > (us ? 36 : 0.9)) break;
        PipeSize size;
        size.id = next++;
        size.material = "plastic";
        size.roughness = 0.011;
        size.size = us ? d * in : d;
        size.wall = std::round(size.size / 20 * 1000) / 1000;
        p.sizes.insert(size);
    }
    const auto type = [&](std::uint64_t id, const char* name, StructureKind kind, PlanShape plan, double length,
                          double width, double sump, InletKind inlet = InletKind::None) {
        StructureType t;
        t.id = id;
        t.name = name;
        t.kind = kind;
        t.plan = plan;
        const double unit = us ? 12 * in : 0.3;  // a foot, or its round metric neighbour
        t.length = length * unit;
        t.width = width * unit;
        t.sump = sump * unit;
        t.inlet = inlet;
        if (inlet == InletKind::Grate || inlet == InletKind::Combination) t.grate = GrateBars::Bars48x102;
        if (inlet == InletKind::CurbOpening || inlet == InletKind::Combination) t.opening_height = 0.5 * unit;
        if (inlet != InletKind::None) t.inlet_source = "usual sizes; replace them by your maker's";
        p.structure_types.insert(t);
    };
    type(400, "round manhole", StructureKind::Manhole, PlanShape::Round, 4, not_given, 0);
    type(401, "wide manhole", StructureKind::Manhole, PlanShape::Round, 5, not_given, 0);
    type(402, "junction chamber", StructureKind::Manhole, PlanShape::Rectangular, 6, 6, 0);
    type(403, "grate inlet", StructureKind::Inlet, PlanShape::Rectangular, 2, 2, 1, InletKind::Grate);
    type(404, "curb inlet", StructureKind::Inlet, PlanShape::Rectangular, 5, 3, 1, InletKind::CurbOpening);
    type(405, "combination inlet", StructureKind::Inlet, PlanShape::Rectangular, 4, 3, 1, InletKind::Combination);
    type(406, "area inlet", StructureKind::Inlet, PlanShape::Rectangular, 3, 3, 1, InletKind::Area);
    return p;
}

UnitSet units_of(const Project& project) {
    UnitSet units(project.settings().system);
    units.apply(project.settings().display);
    return units;
}

std::vector<const RainEvent*> events_in_order(const Project& project) {
    std::vector<const RainEvent*> list;
    for (const RainEvent& e : project.events) list.push_back(&e);
    std::sort(list.begin(), list.end(), [](const RainEvent* a, const RainEvent* b) {
        const double ra = std::isnan(a->return_period) ? 1e300 : a->return_period,
                     rb = std::isnan(b->return_period) ? 1e300 : b->return_period;
        return std::tie(ra, a->name, a->id) < std::tie(rb, b->name, b->id);
    });
    return list;
}

const RainEvent* design_event(const Project& project) {
    const auto list = events_in_order(project);
    for (const RainEvent* e : list)
        if (e->role == EventRole::Minor) return e;
    return list.empty() ? nullptr : list.front();
}

const RainEvent* find_event(const Project& project, const std::string& text) {
    for (const RainEvent& e : project.events)
        if (e.name == text || id_text(e.id) == text) return &e;
    double years = 0;
    if (parse_double(text, years))
        for (const RainEvent* e : events_in_order(project))
            if (e->return_period == years) return e;
    return nullptr;
}

std::vector<const PipeSize*> sizes_of(const Project& project, const std::string& material, Shape shape) {
    std::vector<const PipeSize*> list;
    for (const bool any_material : {false, true}) {
        for (const PipeSize& s : project.sizes)
            if (s.shape == shape && (any_material || s.material == material) && usable(s, &PipeSize::size, 0) > 0 &&
                usable(s, &PipeSize::roughness, 0) > 0 && !std::isnan(s.roughness) &&
                (std::isnan(s.width) || usable(s, &PipeSize::width, 0) > 0))
                list.push_back(&s);
        if (!list.empty()) break;  // a material without sizes of its own may use any of the shape
    }
    std::sort(list.begin(), list.end(),
              [](auto* a, auto* b) { return std::tie(a->size, a->width, a->id) < std::tie(b->size, b->width, b->id); });
    return list;
}

std::string pipe_name(const Project& project, const Pipe& pipe) {
    if (!pipe.name.empty()) return printable(pipe.name);
    const Structure *a = project.structures.find(pipe.from.value), *b = project.structures.find(pipe.to.value);
    std::string name = project.settings().pipe_pattern;
    const auto put = [&name](std::string_view key, const std::string& value) {
        if (const auto at = name.find(key); at != std::string::npos) name.replace(at, key.size(), value);
    };
    put("{from}", a ? a->name : "?");
    put("{to}", b ? b->name : "?");
    if (name.find("{size}") != std::string::npos) put("{size}", units_of(project).number(pipe.size, Quantity::Size));
    return printable(name);
}

std::string element_name(const Project& project, Kind kind, std::uint64_t id) {
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) -> std::string {
        const R* row = project.table<R>().find(id);
        if (!row) return "?";
        if constexpr (std::is_same_v<R, Pipe>) return pipe_name(project, *row);
        else if constexpr (std::is_same_v<R, Limit>)
            return std::string(limit_names()[static_cast<std::size_t>(row->kind)]);
        else if constexpr (std::is_same_v<R, Settings>) return "settings";
        else if constexpr (std::is_same_v<R, PipeSize>)
            return printable(row->material) + " " + units_of(project).text(row->size, Quantity::Size);
        else if constexpr (requires { row->finding; }) return printable(row->finding);
        else if constexpr (std::is_same_v<R, Clearance>)
            return std::string(
                       nth(infos_of(Kind::Clearance)[*field_index(Kind::Clearance, "kind")]->choices, row->kind)) +
                   " clearance";
        else if constexpr (std::is_same_v<R, OutfallLevel>)
            return "level of " + element_name(project, Kind::Structure, row->structure.value);
        else if constexpr (std::is_same_v<R, Release>)
            return "release of " + element_name(project, Kind::Structure, row->structure.value);
        else return row->name.empty() ? "unnamed " + std::string(kind_name(kind)) : printable(row->name);
    });
}

ElementRef find_element(const Project& project, const std::string& name) {
    // As written first; then with every dash as "-", as people type it.
    for (const bool plain : {false, true}) {
        const auto form = [plain](const std::string& s) { return plain ? plain_dashes(s) : s; };
        const std::string wanted = form(name);
        for (const Structure& s : project.structures)
            if (form(s.name) == wanted) return {Kind::Structure, s.id};
        for (const Pipe& p : project.pipes)
            if (form(pipe_name(project, p)) == wanted) return {Kind::Pipe, p.id};
        for (const Catchment& c : project.catchments)
            if (form(c.name) == wanted) return {Kind::Catchment, c.id};
    }
    return {};
}

FieldInfo info_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field) {
    const FieldInfo& info = *infos_of(kind)[field];
    const Limit* limit = kind == Kind::Limit ? project.limits.find(id) : nullptr;
    return limit ? info_for(*limit, info) : info;
}

std::string_view refers_name(Refers refers_to) {
    constexpr std::string_view names[] = {"element",           "structure", "catchment", "street",
                                          "structure or pipe", "event",     "element"};
    return nth(names, refers_to);
}

namespace {

bool holds_row(const Project& p, std::uint64_t id) {
    for (std::size_t k = 0; k < kind_count; ++k)
        if (with_row_type(static_cast<Kind>(k),
                          [&]<class R>(std::type_identity<R>) { return p.table<R>().find(id) != nullptr; }))
            return true;
    return false;
}

}  // namespace

bool holds(const Project& p, Refers refers_to, std::uint64_t id) {
    switch (refers_to) {
        case Refers::Nothing: return true;
        case Refers::Structure: return p.structures.find(id) != nullptr;
        case Refers::Catchment: return p.catchments.find(id) != nullptr;
        case Refers::Street: return p.streets.find(id) != nullptr;
        case Refers::Element: return p.structures.find(id) || p.pipes.find(id);
        case Refers::Event: return p.events.find(id) != nullptr;
        case Refers::Any: return holds_row(p, id);
    }
    return true;
}

std::vector<DanglingReference> dangling_references(const Project& p) {
    std::vector<DanglingReference> list;
    for (std::size_t k = 0; k < kind_count; ++k)
        with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
            const auto fields = fields_of<R>();
            for (std::size_t f = 0; f < fields.size(); ++f) {
                if (fields[f].refers_to == Refers::Nothing) continue;
                for (const R& row : p.table<R>()) {
                    const auto target = std::get<std::uint64_t>(get(row, fields[f]));
                    if (target && !holds(p, fields[f].refers_to, target))
                        list.push_back({kind_of<R>(), row.id, f, fields[f].refers_to, target});
                }
            }
        });
    return list;
}

const Limit* find_limit(const Project& project, LimitKind kind, std::uint64_t element) {
    const Limit* found = nullptr;
    for (const Limit& l : project.limits) {
        if (l.kind != kind) continue;
        if (l.element == element && element != 0) {
            found = &l;
            break;
        }
        if (l.element == 0 && l.group.empty()) found = &l;
    }
    return found && found->active && !std::isnan(found->value) ? found : nullptr;
}

namespace {

std::vector<OutlinePoint> outline_of(const Pipe& pipe) {
    std::vector<OutlinePoint> points;
    for (std::size_t i = 0; i < std::min(pipe.section_across.size(), pipe.section_up.size()); ++i)
        points.push_back({pipe.section_across[i], pipe.section_up[i]});
    return points;
}

}  // namespace

Section section_of(Shape shape, double size, double width, double sides) {
    const double wide = std::isnan(width) ? size : width;
    if (!(size > 0)) return Circular{size};
    switch (shape) {
        case Shape::Box: return Box{wide, size};
        case Shape::Ellipse: return wide > 0 ? Section(shaped(culvert::Ellipse{wide, size})) : Circular{size};
        case Shape::Arch: return wide > 0 ? Section(shaped(culvert::Arch{wide, size})) : Circular{size};
        case Shape::Egg: return shaped(culvert::Egg{size});
        case Shape::Trapezoid: {
            const double bed = std::isnan(width) ? 0 : std::max(width, 0.0);
            return bed + sides > 0 ? Section(shaped(OpenTrapezoid{bed, std::max(sides, 0.0), size})) : Circular{size};
        }
        case Shape::HalfRound: return wide > 0 ? Section(shaped(culvert::HalfRound{wide, size})) : Circular{size};
        case Shape::Circular:
        case Shape::Custom: break;
    }
    return Circular{size};
}
Section section_of(const Pipe& pipe) {
    if (pipe.shape == Shape::Circular) return Circular{pipe.size};
    if (pipe.shape == Shape::Custom && section_fault(pipe).empty()) return shaped(CustomOutline{outline_of(pipe)});
    return section_of(pipe.shape, pipe.size, pipe.width, pipe.sides);
}

std::string section_fault(const Pipe& pipe) {
    if (pipe.shape == Shape::Trapezoid && !(pipe.width > 0) && !(pipe.sides > 0))
        return "has neither a bed nor sloping sides";
    if (has_width(pipe.shape) && pipe.shape != Shape::Trapezoid && !std::isnan(pipe.width) && !(pipe.width > 0))
        return "has no width";
    if (pipe.shape != Shape::Custom) return {};
    if (pipe.section_across.size() != pipe.section_up.size())
        return "has " + std::to_string(pipe.section_across.size()) + " places across but " +
               std::to_string(pipe.section_up.size()) + " heights";
    const std::string fault = outline_fault(outline_of(pipe));
    return fault.starts_with("it ") ? fault.substr(3) : fault;
}

std::string size_words(const UnitSet& units, const Pipe& pipe, bool with_unit) {
    const double high = pipe.shape == Shape::Custom ? height(section_of(pipe)) : pipe.size;
    std::string out = with_unit ? units.text(high, Quantity::Size) : units.number(high, Quantity::Size);
    if (has_width(pipe.shape) && pipe.width > 0) out.insert(0, units.number(pipe.width, Quantity::Size) + " × ");
    if (pipe.barrels > 1) out.insert(0, general(std::floor(pipe.barrels), 6) + " of ");
    return out;
}

StreetProfile entered_profile(const Street& street) {
    StreetProfile out;
    if (street.stations.size() != street.levels.size()) return out;
    for (std::size_t i = 0; i < street.levels.size(); ++i) out.push_back({street.stations[i], street.levels[i]});
    return out;
}

StreetShape shape_at(const Project& project, const Street& street, double station) {
    for (const StreetSection& s : project.street_sections)
        if (s.street.value == street.id && station >= s.start && station <= s.end) return s;
    return street;
}

double path_length(const Project& project, const StreetPath& path) {
    std::vector<Point> line;
    if (const Structure* from = project.structures.find(path.from.value); from && placed(*from))
        line.push_back({from->x, from->y});
    line.insert(line.end(), path.bends.begin(), path.bends.end());
    if (const Structure* to = project.structures.find(path.to.value); to && placed(*to)) line.push_back({to->x, to->y});
    return length(line);
}

double turned(const Project& project, const Pipe& pipe) {
    const Structure *a = project.structures.find(pipe.from.value), *b = project.structures.find(pipe.to.value);
    if (!a || !b || !placed(*a) || !placed(*b) || !in_reach(pipe.bends)) return 0;
    double sum = 0;
    Point before{a->x, a->y};
    for (std::size_t i = 0; i < pipe.bends.size(); ++i) {
        const Point at = pipe.bends[i], next = i + 1 < pipe.bends.size() ? pipe.bends[i + 1] : Point{b->x, b->y};
        const Point in{at.x - before.x, at.y - before.y}, out{next.x - at.x, next.y - at.y};
        if ((in.x == 0 && in.y == 0) || (out.x == 0 && out.y == 0)) continue;  // two points in one place
        sum += std::abs(std::atan2(in.x * out.y - in.y * out.x, in.x * out.x + in.y * out.y));
        before = at;
    }
    return sum * 180 / std::numbers::pi;
}
double drawn_length(const Project& project, const Pipe& pipe) {
    const Structure *a = project.structures.find(pipe.from.value), *b = project.structures.find(pipe.to.value);
    if (!a || !b) return 0;
    Point at{a->x, a->y};
    double sum = 0;
    for (const Point& p : pipe.bends) {
        sum += distance(at, p);
        at = p;
    }
    sum += distance(at, {b->x, b->y});
    if (project.settings().length_basis == LengthBasis::Centres) return sum;
    const Point first = pipe.bends.empty() ? Point{b->x, b->y} : pipe.bends.front(),
                last = pipe.bends.empty() ? Point{a->x, a->y} : pipe.bends.back();
    const double cut = outline_reach(project, *a, first) + outline_reach(project, *b, last);
    return sum > cut ? sum - cut : sum;
}

const StructureType* type_of(const Project& project, const Structure& structure) {
    if (!structure.type.empty())
        for (const StructureType& t : project.structure_types)
            if (t.name == structure.type) return &t;
    return nullptr;
}

double outline_reach(const Project& project, const Structure& structure, Point toward) {
    const StructureType* t = type_of(project, structure);
    if (!t || !(t->length > 0)) return 0;
    if (t->plan == PlanShape::Round) return t->length / 2;
    // A rectangle stands along its street, or along the pipe where it has none.
    const double width = t->width > 0 ? t->width : t->length;
    Point along{toward.x - structure.x, toward.y - structure.y};
    const double l = std::hypot(along.x, along.y);
    if (l == 0) return t->length / 2;
    Point axis{along.x / l, along.y / l};
    if (const Street* street = project.streets.find(structure.street.value); street && street->line.size() > 1) {
        const Station s = station_of(street->line, {structure.x, structure.y});
        const Point at = point_at(street->line, s.station, 0), ahead = point_at(street->line, s.station + 0.01, 0),
                    behind = point_at(street->line, s.station - 0.01, 0);
        const Point d = distance(at, ahead) > 1e-9 ? Point{ahead.x - at.x, ahead.y - at.y}
                                                   : Point{at.x - behind.x, at.y - behind.y};
        const double m = std::hypot(d.x, d.y);
        if (m > 0) axis = {d.x / m, d.y / m};
    }
    const double c = std::abs(along.x / l * axis.x + along.y / l * axis.y),
                 s = std::abs(along.x / l * axis.y - along.y / l * axis.x);
    return std::min(c > 1e-12 ? t->length / 2 / c : 1e300, s > 1e-12 ? width / 2 / s : 1e300);
}
double length_of(const Project& project, const Pipe& pipe) {
    return std::isnan(pipe.length) ? drawn_length(project, pipe) : pipe.length;
}

}  // namespace culvert
