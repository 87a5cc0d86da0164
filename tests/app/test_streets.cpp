// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>

#include "app/window/main_window.h"

using namespace culvert;
using namespace culvert::app;

/// Streets through the window: where the water came from, mending it, spacing inlets and taking them, dragging one.
class TestStreetsWindow : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;

    Document& d() { return *document_; }
    void settle() { QTRY_VERIFY_WITH_TIMEOUT(d().current() && d().review() && !d().all_results().empty(), 20000); }
    ElementRef named(const char* name) { return find_element(d().project(), name); }
    StreetFlow at(const char* name) { return at(named(name).id); }
    StreetFlow at(std::uint64_t id) {
        const auto r = d().result();
        const int node = r->network->node_of(StructureId{id});
        const int inlet = node < 0 ? -1 : r->network->nodes[static_cast<std::size_t>(node)].inlet;
        return inlet < 0 ? StreetFlow{} : r->streets[static_cast<std::size_t>(inlet)];
    }
    Verdict verdict(const char* name) {
        const auto r = d().result();
        for (const Check& c : checks_of(LimitTable(d().project(), r->event), *r, named(name)))
            if (c.rule == Rule::MostSpread) return c.verdict;
        return Verdict::Unknown;
    }
    void stage(const char* name) {
        window_->actions().find(QString("stage.") + name)->trigger();
        window_->grab();
    }
    bool press(const char* part_of_tip) {
        window_->grab();
        Canvas* street = window_->card()->canvas("street");
        if (!street) return false;
        for (const Canvas::Place& place : street->places())
            if (place.click && place.tip.contains(part_of_tip)) {
                place.click();
                return true;
            }
        return false;
    }
    /// A street of 1 % with rain and nothing on it.
    void bare_street() {
        Project p = new_project(UnitSystem::Si);
        Street s;
        s.id = 70;
        s.name = "Long Street";
        s.line = {{0, 0}, {400, 0}};
        s.stations = {0, 250, 400};
        s.levels = {104, 100, 101.5};
        s.strip_width = 25;
        p.streets.insert(s);
        RainEvent e;
        e.id = 5;
        e.name = "10 years";
        e.return_period = 10;
        e.role = EventRole::Minor;
        e.durations = {300, 3600};
        e.intensities = {4e-5, 1e-5};
        p.events.insert(e);
        d().set_project(p);
        QTRY_VERIFY(d().current());
        d().select({{Kind::Street, 70}});
    }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-streets");
    }
    void init() {
        QSettings().clear();
        document_ = std::make_unique<Document>();
        window_ = std::make_unique<MainWindow>(*document_);
        window_->resize(1280, 800);
        window_->show();
    }
    void cleanup() {
        window_.reset();
        document_.reset();
    }
    /// The name of a street moves aside for a structure, and goes where none of its places is free.
    void the_name_of_a_street_stands_beside_structures() {
        bare_street();
        window_->plan()->zoom_to_all();
        stage("streets");
        const auto name = [&] {
            window_->grab();
            return window_->plan()->street_names();
        };
        QCOMPARE(name().size(), std::size_t{1});
        const QRectF alone = name()[0];
        const auto screen = [&](double x) { return window_->plan()->to_screen({x, 0}); };
        QVERIFY(alone.adjusted(0, -6, 0, 6).contains(screen(200)));
        std::uint64_t id = 900;
        std::vector<double> standing;
        const auto stand = [&](double x) {
            Structure s;
            s.id = ++id;
            s.name = "M" + std::to_string(id);
            s.x = x;
            s.y = 0;
            s.rim = 101;
            Editing e(d().project(), "stand");
            e.insert(s);
            d().commit(e.take());
            standing.push_back(x);
            QTRY_VERIFY(d().current());
        };
        std::size_t least = 1;  // names, as long as places are free
        const auto lies_free = [&] {
            const auto boxes = name();
            if (boxes.size() < least) return false;
            for (const QRectF& box : boxes)
                for (const double x : standing)
                    if (box.contains(screen(x))) return false;
            return true;
        };
        stand(400 * 0.5);
        QTRY_VERIFY(lies_free());
        QVERIFY(name()[0] != alone);
        least = 0;
        for (const double share : {0.35, 0.65, 0.2}) {
            stand(400 * share);
            QTRY_VERIFY(lies_free());
        }
        stand(400 * 0.8);
        QTRY_VERIFY(name().empty());
    }
    /// The sag spreads too far; its card says where that water came from; lengthening the opening there mends it.
    void the_card_of_the_sag_says_where_its_water_came_from() {
        window_->open_file(MainWindow::example("alder-quay"));
        settle();
        stage("streets");
        d().select({named("C3")});
        window_->grab();
        QCOMPARE(window_->card()->order().front(), CardPart::Street);
        QCOMPARE(window_->lower()->currentWidget(), window_->street());
        QCOMPARE(verdict("C3"), Verdict::Beyond);
        // What runs along street paths stands in the plan, over no other words.
        const auto& labels = window_->plan()->labels();
        const auto flows =
            std::count_if(labels.begin(), labels.end(), [](auto& l) { return l.first.endsWith(" l/s"); });
        QVERIFY(flows > 0);
        for (std::size_t i = 0; i < labels.size(); ++i)
            for (std::size_t k = i + 1; k < labels.size(); ++k) QVERIFY(!labels[i].second.intersects(labels[k].second));
        QVERIFY(at("C2").bypass > 0.03 && at("C3").flow > at("C3").own_area * at("C3").intensity);
        QVERIFY(press("inlet above let pass"));
        QCOMPARE(d().selected(), named("C2"));
        QVERIFY(press("It runs on along its street path"));
        QCOMPARE(d().selected(), named("C3"));
        d().select({named("C2")});
        window_->grab();
        FieldEdit* opening = window_->card()->field(Kind::Structure, "opening_length");
        QVERIFY(opening);
        auto* line = opening->findChild<QLineEdit*>();
        QVERIFY(line);
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, "6 m");
        QTest::keyClick(line, Qt::Key_Return);
        settle();
        QVERIFY(at("C2").bypass < 0.01);
        QVERIFY(verdict("C3") != Verdict::Beyond);
        // Another event by its row in the card.
        QVERIFY(press("View this event"));
        QCOMPARE(QString::fromStdString(d().project().events.find(d().event().value)->name), QString("2 years"));
        d().undo();
        settle();
        d().set_event({design_event(d().project())->id});
        QTRY_COMPARE(verdict("C3"), Verdict::Beyond);
    }
    void the_ledger_leads_with_what_the_streets_carry() {
        window_->open_file(MainWindow::example("alder-quay"));
        settle();
        stage("streets");
        auto* model = window_->drawer()->ledger()->findChild<LedgerModel*>();
        QCOMPARE(model->kind(), Kind::Structure);
        bool leads = false;
        for (QTableView* t : window_->drawer()->ledger()->findChildren<QTableView*>())
            if (t->model() == model)
                if (const ResultField* f = model->result(t->horizontalHeader()->logicalIndex(1)))
                    leads |= f->key == "approach";
        QVERIFY(leads);
    }
    void inlets_are_spaced_taken_dragged_and_given_back() {
        bare_street();
        stage("streets");
        QAction* space = window_->actions().find("streets.space");
        QVERIFY(space->isEnabled());
        space->trigger();
        QTRY_VERIFY(d().has_pending());
        const std::size_t shown = d().project().structures.size();
        QVERIFY(shown >= 6);  // both sides
        // It is solved before it is taken: no outfall yet, so nothing enters pipes; the chain of the street stands.
        QVERIFY(d().project().street_paths.size() >= 4 && d().project().catchments.size() == shown);
        window_->drawer()->preview()->findChild<QPushButton*>("preview-accept")->click();
        QVERIFY(!d().has_pending() && d().project().structures.size() == shown);
        int sags = 0;
        double area = 0;
        for (const Structure& s : d().project().structures) {
            sags += s.inlet_place == InletPlace::Sag;
            QVERIFY(s.inlet_place != InletPlace::Sag || std::isnan(s.street_grade));
            QVERIFY(std::abs(std::abs(s.y) - 3.75) < 1e-6 && s.station > 0 && s.station < 400);
            QVERIFY(std::abs(s.x - s.station) < 1e-6);
        }
        for (const Catchment& c : d().project().catchments) area += c.area;
        QCOMPARE(sags, 2);
        QVERIFY(area > 0.99 * 2 * 400 * 25 && area <= 2 * 400 * 25 * 1.001);
        // A ditch joins those of one side; it is shown before it is taken.
        window_->actions().refresh();
        window_->actions().find("streets.ditch_right")->trigger();
        QTRY_VERIFY(d().has_pending());
        QVERIFY(d().committed().pipes.size() == 0);
        d().commit_pending();
        QVERIFY(d().project().pipes.size() >= 2);
        for (const Pipe& p : d().project().pipes) {
            QCOMPARE(p.shape, Shape::Trapezoid);
            const Structure *a = d().project().structures.find(p.from.value),
                            *b = d().project().structures.find(p.to.value);
            QVERIFY(a->y < 0 && b->y < 0 && a->rim >= b->rim);
        }
        d().undo();
        // Spaced once, it is judged.
        window_->actions().find("streets.judge")->trigger();
        d().undo();
        QCOMPARE(d().project().structures.size(), std::size_t{0});
        QCOMPARE(d().project().catchments.size(), std::size_t{0});
        d().redo();
        QCOMPARE(d().project().structures.size(), shown);
    }
    /// Dragging an inlet down its street moves its station, and the chain below follows while it is dragged.
    void the_chain_follows_a_dragged_inlet() {
        window_->open_file(MainWindow::example("alder-quay"));
        settle();
        stage("streets");
        const ElementRef inlet = named("C2");
        const Structure before = *d().project().structures.find(inlet.id);
        const StreetFlow below = at("C3");
        PlanView* plan = window_->plan();
        plan->setFocus();
        d().select({inlet});
        window_->grab();
        const QPoint from = plan->to_screen({before.x, before.y}).toPoint();
        QTest::mousePress(plan, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 8; ++i) QTest::mouseMove(plan, from + QPoint(i, -i));
        QVERIFY(d().has_pending());
        QTRY_VERIFY(d().current());
        QTest::mouseRelease(plan, Qt::LeftButton, {}, from + QPoint(8, -8));
        settle();
        const Structure& after = *d().project().structures.find(inlet.id);
        QVERIFY(after.station != before.station);
        QVERIFY(at("C2").travel != 0 && at("C3").time != below.time);
        d().undo();
        settle();
        QCOMPARE(at("C3").time, below.time);
    }
    /// The plan shows water at the curbs in this stage only, and gathers it for the streets in view only.
    void the_plan_shows_water_where_it_runs() {
        window_->open_file(MainWindow::example("alder-quay"));
        settle();
        stage("pipes");
        QCOMPARE(window_->plan()->water().strips(), std::size_t{0});
        d().select({named("C3")});
        stage("streets");
        window_->plan()->zoom_at(window_->plan()->to_screen({d().project().structures.find(named("C3").id)->x,
                                                             d().project().structures.find(named("C3").id)->y}),
                                 3);
        window_->grab();
        QVERIFY(window_->plan()->water().strips() >= 4);  // both ways to the sag, and its neighbours
    }
    /// Streets without levels take those of the ground: an inlet then has the ground's grade without an entered one.
    void the_ground_is_kept_as_the_streets_profiles() {
        window_->open_file(MainWindow::example("alder-quay"));
        settle();
        QTRY_VERIFY(!d().site().ground().empty());
        const auto ropewalk = [&] {
            for (const Street& s : d().project().streets)
                if (s.name == "Ropewalk") return s;
            return Street{};
        };
        QVERIFY(ropewalk().levels.empty());
        window_->actions().find("streets.keep_profile")->trigger();
        QVERIFY(ropewalk().levels.size() > 2 && ropewalk().stations.size() == ropewalk().levels.size());
        Editing e(d().project(), "no own grade");
        e.set(Kind::Structure, named("A2").id, "street_grade", not_given);
        d().commit(e.take());
        settle();
        const auto r = d().result();
        const auto& in = r->network->inlets[static_cast<std::size_t>(
            r->network->nodes[static_cast<std::size_t>(r->network->node_of(named("A2")))].inlet)];
        QVERIFY(in.grade_from == GradeFrom::Profile && in.gutter.grade > 0.001 && in.gutter.grade < 0.05);
    }
    /// A layer of land covers is offered as a preview; taken, areas fill in; one that cannot be read changes nothing.
    void land_covers_are_cut_from_a_layer() {
        window_->open_file(MainWindow::example("alder-quay"));
        settle();
        QTemporaryDir folder;
        const auto write = [&](const char* name, const QByteArray& content) {
            QFile file(folder.filePath(name));
            if (file.open(QIODevice::WriteOnly)) file.write(content);
            return file.fileName();
        };
        const std::size_t before = d().project().land_covers.size();
        window_->cut_cover_layer(write("broken.geojson", "{"));
        QTest::qWait(300);
        QVERIFY(!d().has_pending() && d().project().land_covers.size() == before);
        window_->cut_cover_layer(
            write("covers.geojson",
                  R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"cover":"roof"},
            "geometry":{"type":"Polygon","coordinates":[[[-1000,-1000],[3000,-1000],[3000,3000],[-1000,3000]]]}}]})"));
        QTRY_VERIFY(d().has_pending());
        window_->drawer()->preview()->findChild<QPushButton*>("preview-accept")->click();
        std::size_t drawn = 0;
        for (const Catchment& c : d().project().catchments) drawn += c.outline.size() > 2;
        QVERIFY(drawn > 5);
        std::size_t roofs = 0;
        for (const LandCover& l : d().project().land_covers) roofs += l.name == "roof" && l.curve_number == 98;
        QCOMPARE(roofs, drawn);
        d().undo();
        QCOMPARE(d().project().land_covers.size(), before);
    }
    void questions_are_answered_where_they_are_typed() {
        window_->open_file(MainWindow::example("alder-quay"));
        settle();
        window_->actions().find("view.find")->trigger();
        auto* line = window_->findChild<QWidget*>("command-bar")->findChild<QLineEdit*>();
        auto* list = window_->findChild<QWidget*>("command-bar")->findChild<QListWidget*>();
        for (const auto& [typed, said] : {std::pair{"gutter flow=40l/s grade=1.2%", "spread 2.29 m"},
                                          {"spread 40 l/s at 1.2 %", "spread 2.29 m"},
                                          {"gutter spread=2.29m grade=1.2%", "flow 40."},
                                          {"gutter flow=40l/s", "asks for grade"}}) {
            line->clear();
            QTest::keyClicks(line, typed);
            QVERIFY2(list->item(0)->text().contains(said), qPrintable(QString(typed) + ": " + list->item(0)->text()));
        }
        // A range gives a row for each value; what is found is put on the selected inlet by Enter, as one Edit.
        line->clear();
        QTest::keyClicks(line, "gutter flow=10l/s..50l/s/5 grade=1.2%");
        QVERIFY(list->item(0)->text().startsWith("10.0 l/s: spread") &&
                list->item(4)->text().startsWith("50.0 l/s: spread"));
        d().select({named("C2")});
        line->clear();
        QTest::keyClicks(line, "opening flow=60l/s captured=50l/s grade=1.45%");
        QVERIFY2(list->item(0)->text().startsWith("opening length 3."), qPrintable(list->item(0)->text()));
        QVERIFY(list->item(1)->text().startsWith("Put this length"));
        QTest::keyClick(line, Qt::Key_Down);
        QTest::keyClick(line, Qt::Key_Return);
        QVERIFY(d().project().structures.find(named("C2").id)->opening_length > 3);
        settle();
        QVERIFY(at("C2").bypass < 0.04);
        d().undo();
        QVERIFY(std::isnan(d().project().structures.find(named("C2").id)->opening_length));
    }
};

QTEST_MAIN(TestStreetsWindow)
#include "test_streets.moc"
