// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/solver.h"
#include "core/review/review.h"
#include "drawing/plan_sheet.h"
#include "support/networks.h"

using namespace culvert;

namespace {

bool near(double a, double b, double within = 1e-9) { return std::abs(a - b) <= within; }
const Drawn* drawn(const PlanSheet& sheet, ElementRef element, Drawn::Type type = Drawn::Type::Line) {
    for (const Drawn& d : sheet.list)
        if (d.element == element && d.type == type) return &d;
    return nullptr;
}

}  // namespace

/// The plan on paper and in coordinates, by hand; at scale.
class TestPlanSheet : public QObject {
    Q_OBJECT
  private slots:
    /// 200 m by 120 m fit A3 at 1 : 1000 (200 by 120 mm) and at 1 : 500 no more than 380 mm: 400 are too many.
    void places_are_to_scale() {
        Project p = new_project(UnitSystem::Si);
        for (const auto& [id, x, y] :
             {std::tuple{1ull, 1000.0, 5000.0}, {2ull, 1200.0, 5000.0}, {3ull, 1200.0, 5120.0}}) {
            Structure s;
            s.id = id;
            s.name = "S" + std::to_string(id);
            s.kind = id == 3 ? StructureKind::Outfall : id == 1 ? StructureKind::Inlet : StructureKind::Manhole;
            s.x = x;
            s.y = y;
            s.rim = 50;
            p.structures.insert(s);
        }
        for (const std::uint64_t i : {1, 2}) {
            Pipe q;
            q.id = 10 + i;
            q.from = {i};
            q.to = {i + 1};
            q.size = 0.45;
            q.invert_from = 48 - static_cast<double>(i);
            q.invert_to = 47.4 - static_cast<double>(i);
            p.pipes.insert(q);
        }
        PlanSheetOptions options;
        PlanSheet sheet = plan_sheet(p, options);
        QCOMPARE(sheet.scale, 1000.0);
        QVERIFY(near(sheet.width, 220) && near(sheet.height, 120 + 20 + 12));
        const Drawn* pipe = drawn(sheet, {Kind::Pipe, 11});
        QVERIFY(pipe && near(pipe->points[0].x, 10) && near(pipe->points[0].y, 10) && near(pipe->points[1].x, 210));
        const Drawn* words = drawn(sheet, {Kind::Pipe, 11}, Drawn::Type::Text);
        QVERIFY(words && words->text == "450, 0.30 %");
        QVERIFY(drawn(sheet, {Kind::Structure, 1}, Drawn::Type::Text)->text == "S1 50.000");
        QCOMPARE(drawn(sheet, {Kind::Structure, 1})->points.size(), std::size_t{5});   // a square
        QCOMPARE(drawn(sheet, {Kind::Structure, 3})->points.size(), std::size_t{4});   // a triangle
        QCOMPARE(drawn(sheet, {Kind::Structure, 2})->points.size(), std::size_t{25});  // round
        options.scale = 500;
        sheet = plan_sheet(p, options);
        QVERIFY(near(drawn(sheet, {Kind::Pipe, 11})->points[1].x, 410));
        // The scale bar is as long as it says.
        const auto bar = std::find_if(sheet.list.begin(), sheet.list.end(), [](const Drawn& d) {
            return d.type == Drawn::Type::Text && d.text.ends_with(" m") && d.element.id == 0;
        });
        QVERIFY(bar != sheet.list.end());
        QVERIFY(near(bar->points[0].x - 8, std::stod(bar->text) * 1000 / 500));
        // In coordinates: as the project has them, texts 2.5 mm at the scale.
        options.in_coordinates = true;
        sheet = plan_sheet(p, options);
        QVERIFY(near(drawn(sheet, {Kind::Pipe, 12})->points[1].y, 5120) && near(sheet.letters, 1.25));
        p.settings_rows.change(settings_id)->system = UnitSystem::Us;
        QVERIFY(near(drawn(plan_sheet(p, options), {Kind::Pipe, 12})->points[1].y, 5120 / 0.3048, 1e-6));
        QVERIFY(plan_sheet(new_project(UnitSystem::Si), options).list.empty());
        options.scale = -1;
        QVERIFY(plan_sheet(p, options).list.empty());
    }
    /// No label on another, none on a structure; what has no room is counted; a second of work at 5,000 pipes at most.
    void labels_keep_apart_at_scale() {
        for (const int pipes : {60, 5000}) {
            const Project p = testing::random_project({.pipes = pipes, .seed = 7});
            const auto r = solve(p)[0];
            const Review rev = review(p, *r);
            PlanSheetOptions options;
            options.result = r.get();
            options.review = &rev;
            QElapsedTimer t;
            t.start();
            const PlanSheet sheet = plan_sheet(p, options);
            QVERIFY2(t.elapsed() < 4000, qPrintable(QString::number(t.elapsed())));
            struct Box {
                double x0, y0, x1, y1;
            };
            std::vector<Box> boxes;
            for (const Drawn& d : sheet.list)
                if (d.type == Drawn::Type::Text && d.element.id)
                    boxes.push_back(
                        {d.points[0].x, d.points[0].y,
                         d.points[0].x + 0.6 * 2.5 * static_cast<double>(QString::fromStdString(d.text).size()),
                         d.points[0].y + 2.5});
            std::sort(boxes.begin(), boxes.end(), [](const Box& a, const Box& b) { return a.x0 < b.x0; });
            for (std::size_t i = 0; i < boxes.size(); ++i)
                for (std::size_t k = i + 1; k < boxes.size() && boxes[k].x0 < boxes[i].x1 - 1e-9; ++k)
                    QVERIFY(boxes[k].y0 >= boxes[i].y1 - 1e-9 || boxes[i].y0 >= boxes[k].y1 - 1e-9);
            QVERIFY(boxes.size() > 20 && sheet.labels_left > 0);
            // Beyond its limits, a pipe has the ink of it.
            for (const Pipe& q : p.pipes)
                if (const Drawn* d = drawn(sheet, {Kind::Pipe, q.id}); d && pipes == 60) {
                    const Verdict v = rev.of(*r->network, {Kind::Pipe, q.id});
                    QCOMPARE(d->ink == Ink::BarrelBeyond, v == Verdict::Beyond);
                }
        }
    }
};
QTEST_GUILESS_MAIN(TestPlanSheet)
#include "test_plan_sheet.moc"
