// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <atomic>
#include <map>
#include <set>
#include <thread>

#include "core/model/cells.h"
#include "core/model/edit.h"
#include "core/model/lay.h"
#include "support/networks.h"

using namespace culvert;

namespace {

/// A random Edit on a project: patches of every kind of field, inserts, deletes with what hangs on them.
Edit random_edit(const Project& p, std::mt19937& random) {
    Editing e(p, "random");
    const int steps = 1 + static_cast<int>(random() % 4);
    for (int i = 0; i < steps; ++i) {
        const Kind kind = static_cast<Kind>(random() % kind_count);
        with_row_type(kind, [&]<class R>(std::type_identity<R>) {
            const auto& table = e.now().table<R>();
            if (table.empty()) return;
            auto row = table.begin();
            for (std::size_t k = random() % std::min<std::size_t>(table.size(), 50); k > 0; --k) ++row;
            const std::uint64_t id = row->id;
            switch (random() % 6) {
                case 0: e.remove(kind, id); return;
                case 1: {
                    R copy = *row;
                    copy.id = random_id();
                    if constexpr (!std::is_same_v<R, Settings>) e.insert(copy);
                    return;
                }
                default: break;
            }
            const auto& f = fields_of<R>()[random() % fields_of<R>().size()];
            Value v = get(*row, f);
            if (auto* number = std::get_if<double>(&v))
                *number = random() % 5 ? static_cast<double>(random() % 1000) / 7 : not_given;
            else if (auto* text = std::get_if<std::string>(&v)) *text += "x";
            else if (auto* flag = std::get_if<bool>(&v)) *flag = !*flag;
            else if (auto* choice = std::get_if<int>(&v)) *choice = static_cast<int>(random() % f.choices.size());
            e.set(kind, id, f.key, v, static_cast<Origin>(random() % 6));
        });
    }
    return e.take();
}

bool references_whole(const Project& p) {
    for (const Pipe& pipe : p.pipes)
        if (!p.structures.find(pipe.from.value) || !p.structures.find(pipe.to.value)) return false;
    for (const Catchment& c : p.catchments)
        if (c.structure && !p.structures.find(c.structure.value)) return false;
    for (const LandCover& l : p.land_covers)
        if (!p.catchments.find(l.catchment.value)) return false;
    return true;
}

}  // namespace

class TestModel : public QObject {
    Q_OBJECT
  private slots:
    /// Types of a new project: in whole feet, or their round metric neighbours of three tenths of a metre.
    /// What must be given, where a number above its least is meant, and who is called by a name.
    void fields_that_are_needed_and_names_that_are_taken() {
        std::set<std::string> needed;
        for (std::size_t k = 0; k < kind_count; ++k)
            for (const FieldInfo* f : infos_of(static_cast<Kind>(k)))
                if (f->needed) needed.insert(std::string(kind_name(static_cast<Kind>(k))) + " " + std::string(f->key));
        // Without one of these nothing can be computed there; all else has a default or a way to be found.
        QCOMPARE(needed,
                 (std::set<std::string>{
                     "structure x",           "structure y",        "structure rim",          "pipe size",
                     "pipe roughness",        "pipe invert_from",   "pipe invert_to",         "catchment area",
                     "catchment coefficient", "land cover area",    "land cover coefficient", "event return_period",
                     "limit value",           "size size",          "size roughness",         "settings curve_number",
                     "street section start",  "street section end", "buried line size",       "outlet level",
                     "outfall level level",   "type length"}));
        Project p = new_project(UnitSystem::Si);
        Structure s;
        s.id = 5;
        s.name = "A1";
        p.structures.insert(s);
        QVERIFY(name_taken(p, Kind::Structure, "A1", 0) && !name_taken(p, Kind::Structure, "A1", 5));
        QVERIFY(!name_taken(p, Kind::Structure, "A2", 0) && !name_taken(p, Kind::Release, "A1", 0));
    }
    void a_new_project_has_usual_types() {
        const std::tuple<const char*, double, double, double> feet[] = {{"round manhole", 4, not_given, 0},
                                                                        {"wide manhole", 5, not_given, 0},
                                                                        {"junction chamber", 6, 6, 0},
                                                                        {"grate inlet", 2, 2, 1},
                                                                        {"curb inlet", 5, 3, 1},
                                                                        {"combination inlet", 4, 3, 1},
                                                                        {"area inlet", 3, 3, 1}};
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            const double foot = system == UnitSystem::Us ? 0.3048 : 0.3;
            const Project p = new_project(system);
            QCOMPARE(p.structure_types.size(), std::size(feet));
            for (const StructureType& t : p.structure_types) {
                const auto* row = std::find_if(std::begin(feet), std::end(feet),
                                               [&](const auto& f) { return t.name == std::get<0>(f); });
                QVERIFY(row != std::end(feet));
                const auto& [name, length, width, sump] = *row;
                QVERIFY(std::abs(t.length - length * foot) < 1e-9 && std::abs(t.sump - sump * foot) < 1e-9);
                QVERIFY(std::isnan(width) ? std::isnan(t.width) : std::abs(t.width - width * foot) < 1e-9);
                QCOMPARE(t.inlet != InletKind::None, t.kind == StructureKind::Inlet);
                QCOMPARE(t.plan == PlanShape::Round, std::isnan(width));
                const bool throat = t.inlet == InletKind::CurbOpening || t.inlet == InletKind::Combination;
                QVERIFY(throat ? std::abs(t.opening_height - foot / 2) < 1e-9 : std::isnan(t.opening_height));
            }
        }
    }
    void table_is_a_sorted_map_with_snapshots() {
        std::mt19937_64 random(4);
        Table<Structure> table;
        std::map<std::uint64_t, std::string> expected;
        std::vector<std::pair<Table<Structure>, std::map<std::uint64_t, std::string>>> snapshots;
        for (int i = 0; i < 6000; ++i) {
            const std::uint64_t id = 1 + random() % 2500;
            Structure s;
            s.id = id;
            s.name = std::to_string(i);
            switch (random() % 4) {
                case 0:
                case 1: QCOMPARE(table.insert(s), expected.emplace(id, s.name).second); break;
                case 2: QCOMPARE(table.erase(id), expected.erase(id) == 1); break;
                default:
                    if (Structure* row = table.change(id)) {
                        row->name = s.name;
                        expected[id] = s.name;
                    } else QVERIFY(!expected.contains(id));
            }
            if (i % 600 == 0) snapshots.emplace_back(table, expected);
        }
        snapshots.emplace_back(table, expected);
        for (const auto& [t, e] : snapshots) {
            QCOMPARE(t.size(), e.size());
            auto at = e.begin();
            for (const Structure& row : t) {
                QCOMPARE(row.id, at->first);
                QCOMPARE(QString::fromStdString(row.name), QString::fromStdString(at->second));
                QVERIFY(t.find(row.id) == &row);
                ++at;
            }
        }
        QVERIFY(!table.find(999999));
    }
    void an_edit_copies_a_chunk_not_the_table() {
        Project p = testing::random_project({.pipes = 2000, .seed = 3});
        const Project snapshot = p;
        const std::uint64_t id = p.pipes.begin()->id;
        p.pipes.change(id)->size = 9;
        int shared = 0, copied = 0;
        for (const Pipe& row : p.pipes) (snapshot.pipes.find(row.id) == &row ? shared : copied)++;
        QVERIFY(copied <= 64 && shared > 1900);
        QVERIFY(snapshot.pipes.find(id)->size != 9);
        QVERIFY(p.structures.same(snapshot.structures));
    }
    void undo_of_do_is_identity() {
        std::mt19937 random(11);
        Project p = testing::random_project({.pipes = 60, .seed = 5, .events = 3});
        for (int i = 0; i < 400; ++i) {
            const Project before = p;
            const Edit e = random_edit(p, random);
            apply(p, e);
            const Project after = p;
            revert(p, e);
            QVERIFY(p == before);
            apply(p, e);
            QVERIFY(p == after);
        }
    }
    void history_of_any_length() {
        std::mt19937 random(12);
        Project p = testing::random_project({.pipes = 40, .seed = 6});
        std::vector<Project> states{p};
        History history;
        for (int i = 0; i < 200; ++i) {
            Edit e = random_edit(p, random);
            if (e.empty()) continue;
            apply(p, e);
            history.push(std::move(e));
            states.push_back(p);
        }
        for (std::size_t i = states.size() - 1; i > 0; --i) {
            history.undo(p);
            QVERIFY(p == states[i - 1]);
        }
        QVERIFY(!history.can_undo());
        for (std::size_t i = 1; i < states.size(); ++i) {
            history.redo(p);
            QVERIFY(p == states[i]);
        }
        QVERIFY(!history.can_redo());
        history.undo(p);
        history.push(random_edit(p, random));  // a new change cuts what was undone
        QVERIFY(!history.can_redo());
    }
    /// A new project begins with whole numbers of its own units.
    void new_projects_begin_with_round_numbers() {
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            const Project p = new_project(system);
            const Settings& s = p.settings();
            const double size = system == UnitSystem::Us ? 0.0254 : 0.001,
                         length = system == UnitSystem::Us ? 0.3048 : 1;
            const auto round_of = [](double v, double unit, double step) {
                const double n = v / unit / step;
                return std::abs(n - std::round(n)) < 1e-9;
            };
            QVERIFY(round_of(s.default_size, size, system == UnitSystem::Us ? 3 : 50));
            QVERIFY(round_of(s.default_cover, length, 0.1) && round_of(s.default_rim, length, 1));
            QVERIFY(round_of(s.default_drop, length, 0.01));
            QVERIFY(s.system == system && (s.edition == Edition::Us) == (system == UnitSystem::Us));
            QVERIFY(find_limit(p, LimitKind::LeastSize, 0)->value <= s.default_size + 1e-9);
            for (const Limit& l : p.limits)
                if (limit_quantity(l.kind) == Quantity::Length) QVERIFY(round_of(l.value, length, 0.1));
        }
    }
    /// Ranges that hold for their quantity, whatever the field: a share is no more than the whole, a Manning n has a
    /// scale of natural surfaces, what is typed without a question is allowed.
    void ranges_of_fields_fit_their_quantities() {
        int shares = 0, scales = 0;
        for (std::size_t k = 0; k < kind_count; ++k)
            for (const FieldInfo* f : infos_of(static_cast<Kind>(k))) {
                const QByteArray at =
                    (std::string(table_name(static_cast<Kind>(k))) + "." + std::string(f->key)).c_str();
                QVERIFY2(f->low < f->high, at);
                if (f->scale.low <= f->scale.high) {
                    ++scales;
                    QVERIFY2(f->scale.low >= f->low && f->scale.high <= f->high, at);
                }
                if (f->help.starts_with("Share")) {
                    ++shares;
                    QVERIFY2(f->low >= 0 && f->high <= 1, at);
                }
                if (f->quantity == Quantity::Roughness && f->scale.low <= f->scale.high)
                    QVERIFY2(f->scale.low >= 0.005 && f->scale.high <= 1, at);
            }
        QVERIFY2(shares >= 6 && scales > 30, qPrintable(QString("%1 %2").arg(shares).arg(scales)));
    }
    /// One row of each kind, each reference set: whatever is removed, nothing refers to it any more, and it comes back.
    void removing_anything_leaves_no_reference_to_it() {
        Project p = testing::random_project({.pipes = 12, .seed = 3});
        Street street;
        street.id = 4001;
        street.name = "Lane";
        street.line = {{0, 0}, {50, 0}};
        p.streets.insert(street);
        // What each reference of a fresh row leads to, by what it may refer to.
        const std::uint64_t structure = std::next(p.structures.begin(), 2)->id, catchment = p.catchments.begin()->id,
                            event = p.events.begin()->id, pipe = p.pipes.begin()->id;
        std::uint64_t next = 5000;
        std::size_t set = 0;
        for (std::size_t k = 0; k < kind_count; ++k)
            with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
                if constexpr (!std::is_same_v<R, Settings>) {
                    R row;
                    row.id = ++next;
                    p.table<R>().insert(row);
                    const auto fields = fields_of<R>();
                    for (std::size_t f = 0; f < fields.size(); ++f) {
                        std::uint64_t to = 0;
                        switch (fields[f].refers_to) {
                            case Refers::Nothing: continue;
                            case Refers::Structure: to = structure; break;
                            case Refers::Catchment: to = catchment; break;
                            case Refers::Street: to = 4001; break;
                            case Refers::Event: to = event; break;
                            case Refers::Element: to = pipe; break;
                            case Refers::Any: to = catchment; break;
                        }
                        culvert::set(*p.table<R>().change(row.id), fields[f], Value(to));
                        ++set;
                    }
                }
            });
        QVERIFY(set > 20 && dangling_references(p).empty());
        for (std::size_t k = 0; k < kind_count; ++k)
            with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
                for (const R& row : p.table<R>()) {
                    Editing e(p, "remove");
                    e.remove(kind_of<R>(), row.id);
                    const auto left = dangling_references(e.now());
                    QVERIFY2(left.empty(), left.empty() ? ""
                                                        : qPrintable(QString::fromStdString(
                                                              std::string(kind_name(left[0].kind)) + " refers to a " +
                                                              std::string(kind_name(kind_of<R>())) + " that is gone")));
                    QCOMPARE(e.now().table<R>().find(row.id) == nullptr, !(std::is_same_v<R, Settings>));
                    Project q = p;
                    const Edit edit = e.take();
                    apply(q, edit);
                    revert(q, edit);
                    QVERIFY(q == p);
                }
            });
    }
    void deleting_keeps_references_whole() {
        Project p = testing::random_project({.pipes = 80, .seed = 7});
        LandCover cover;
        cover.id = 77;
        cover.catchment = {p.catchments.begin()->id};
        p.land_covers.insert(cover);
        Limit own;
        own.id = 78;
        own.element = p.pipes.begin()->id;
        p.limits.insert(own);
        StreetPath path;
        path.id = 79;
        path.from = {p.structures.begin()->id};
        p.street_paths.insert(path);
        std::mt19937 random(2);
        while (p.structures.size() > 3) {
            auto row = p.structures.begin();
            for (std::size_t k = random() % p.structures.size(); k > 0; --k) ++row;
            const std::size_t catchments = p.catchments.size();
            Editing e(p, "delete");
            e.remove(Kind::Structure, row->id);
            apply(p, e.take());
            QVERIFY(references_whole(p));
            QCOMPARE(p.catchments.size(), catchments);  // they stay, draining nowhere
        }
        Editing e(p, "catchment");
        const std::uint64_t id = cover.catchment.value;
        e.remove(Kind::Catchment, id);
        QVERIFY(e.now().land_covers.empty());
        // A street takes its own sections along, and no other's.
        for (const std::uint64_t street : {90, 91}) {
            Street row;
            row.id = street;
            p.streets.insert(row);
            StreetSection section;
            section.id = street + 10;
            section.street = {street};
            p.street_sections.insert(section);
        }
        Editing f(p, "street");
        f.remove(Kind::Street, 90);
        QCOMPARE(f.now().street_sections.size(), std::size_t{1});
        QCOMPARE(f.now().street_sections.begin()->street.value, std::uint64_t{91});
        for (const Limit& l : p.limits) QVERIFY(!l.element || p.pipes.find(l.element));
    }
    void setting_what_is_there_is_no_change() {
        const Project p = testing::random_project({.pipes = 5, .seed = 1});
        Editing e(p, "same");
        const Pipe& row = *p.pipes.begin();
        QVERIFY(e.set(Kind::Pipe, row.id, "size", row.size, row.origin[*field_index(Kind::Pipe, "size")]));
        QVERIFY(!e.set(Kind::Pipe, row.id, "no such field", 1.0));
        QVERIFY(!e.set(Kind::Pipe, row.id, "size", std::string("text")));
        QVERIFY(!e.set(Kind::Pipe, 4242, "size", 1.0));
        QVERIFY(e.take().empty());
    }
    void every_field_is_described() {
        for (std::size_t k = 0; k < kind_count; ++k) {
            const auto infos = infos_of(static_cast<Kind>(k));
            QVERIFY(infos.size() <= most_fields);
            std::set<std::string_view> keys;
            for (const FieldInfo* f : infos) {
                QVERIFY(!f->key.empty() && !f->label.empty() && !f->help.empty());
                QVERIFY(keys.insert(f->key).second);
                QVERIFY(f->low <= f->high);
            }
        }
        QCOMPARE(limit_names().size(), limit_count);
    }
    void an_exception_is_found_before_the_limit_of_the_project() {
        Project p = new_project(UnitSystem::Si);
        Limit own;
        own.id = 900;
        own.kind = LimitKind::LeastCover;
        own.element = 77;
        own.value = 0.4;
        p.limits.insert(own);
        QCOMPARE(find_limit(p, LimitKind::LeastCover, 77)->value, 0.4);
        QCOMPARE(find_limit(p, LimitKind::LeastCover, 78)->value, 0.9);
        QCOMPARE(find_limit(p, LimitKind::LeastCover, 0)->value, 0.9);
    }
    void the_catalogue_of_a_new_project_rises_in_usual_steps() {
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            const Project p = new_project(system);
            std::vector<double> sizes;
            for (const PipeSize& s : p.sizes)
                if (s.material == "concrete" && s.shape == Shape::Circular)
                    sizes.push_back(s.size / (system == UnitSystem::Us ? 0.0254 : 0.001));
            QVERIFY(std::is_sorted(sizes.begin(), sizes.end()));
            for (std::size_t i = 1; i < sizes.size(); ++i) {
                QVERIFY2(sizes[i] / sizes[i - 1] <= 1.26 && sizes[i] > sizes[i - 1],
                         qPrintable(QString::number(sizes[i])));
                QVERIFY(std::abs(sizes[i] - std::round(sizes[i])) < 1e-6);  // whole millimetres, or inches
            }
            QVERIFY(std::abs(sizes.back() - (system == UnitSystem::Us ? 84 : 2100)) < 1e-6);
        }
    }
    /// Sizes whose numbers are out of range are offered to nobody; shapes without a width are what they can be.
    void odd_sizes_and_shapes() {
        const Project p = new_project(UnitSystem::Si);
        const auto offered = [&](auto spoil) {
            Project q = p;
            const std::size_t all = sizes_of(q, "concrete", Shape::Circular).size();
            spoil(*q.sizes.change(sizes_of(q, "concrete", Shape::Circular)[1]->id));
            return all - sizes_of(q, "concrete", Shape::Circular).size();
        };
        QCOMPARE(offered([](PipeSize& s) { s.wall = 0.07; }), std::size_t{0});
        QCOMPARE(offered([](PipeSize& s) { s.roughness = 5; }), std::size_t{1});
        QCOMPARE(offered([](PipeSize& s) { s.roughness = not_given; }), std::size_t{1});
        QCOMPARE(offered([](PipeSize& s) { s.size = 70; }), std::size_t{1});
        QCOMPARE(offered([](PipeSize& s) { s.width = -1; }), std::size_t{1});
        for (const Shape shape : {Shape::Ellipse, Shape::Arch}) {
            QVERIFY(std::holds_alternative<Circular>(section_of(shape, 1, 0, 0)));
            QVERIFY(!std::holds_alternative<Circular>(section_of(shape, 1, 1.5, 0)));
            QCOMPARE(height(section_of(shape, 1, 0, 0)), 1.0);
        }
    }
    void names_and_laying() {
        Project p = new_project(UnitSystem::Si);
        QCOMPARE(QString::fromStdString(next_branch(p)), QString("A"));
        Structure a, b;
        a.id = 1;
        a.name = "A1";
        a.rim = 50;
        b.id = 2;
        b.name = "A2";
        b.rim = 49;
        a.x = a.y = b.y = 0;
        b.x = 100;
        p.structures.insert(a);
        p.structures.insert(b);
        QCOMPARE(QString::fromStdString(next_structure_name(p, "A1")), QString("A3"));
        QCOMPARE(QString::fromStdString(next_branch(p)), QString("B"));
        const Pipe pipe = laid_pipe(p, {1}, {2});
        QCOMPARE(pipe.size, 0.3);
        QVERIFY(std::abs(pipe.invert_from - (50 - 1.2 - 0.3 - pipe.wall)) < 1e-9);
        QVERIFY(std::abs((pipe.invert_from - pipe.invert_to) / 100 - 0.01) < 1e-9);
        QCOMPARE(pipe.origin[*field_index(Kind::Pipe, "wall")], Origin::Catalogue);
        QCOMPARE(QString::fromStdString(pipe_name(p, pipe)), QString("A1–A2"));
    }
    void a_snapshot_is_read_while_the_project_changes() {
        Project p = testing::random_project({.pipes = 500, .seed = 3});
        std::atomic<bool> done = false;
        const Project snapshot = p;
        double sum = 0;
        std::thread reader([&] {
            for (int i = 0; i < 50; ++i)
                for (const Pipe& row : snapshot.pipes) sum += row.size;
            done = true;
        });
        int k = 0;
        do {
            for (const Structure& s : snapshot.structures)
                if (Pipe* row = p.pipes.change(s.id + 1)) row->size = 0.1 * (k++ % 9 + 1);
        } while (!done);
        reader.join();
        double expected = 0;
        for (const Pipe& row : snapshot.pipes) expected += row.size;
        QVERIFY(std::abs(sum - 50 * expected) < 1e-6);
    }
};
QTEST_APPLESS_MAIN(TestModel)
#include "test_model.moc"
