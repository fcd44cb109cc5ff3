package dachshund.web.start;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.ShiftCalendarDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.WriteMode;
import dachshund.core.equipment.Alike;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.layout.ColumnSource.Variable;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Treatment;
import dachshund.core.layout.TypeChoice;
import dachshund.core.layout.Upkeep;
import dachshund.core.lineup.Proposals;
import dachshund.core.lineup.RecorderLines;
import dachshund.core.shift.Shift;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.Confirmation;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;

/** The demo's recorders: one of each shape, of each When, into each kind of destination that runs without more than the demo has. */
final class DemoRecorders {

    private static final Set<DayOfWeek> ALL = EnumSet.allOf(DayOfWeek.class);
    private static final Upkeep BOTH = new Upkeep(true, true);

    private final Definitions definitions;
    private final Drafts drafts;
    private final SourceDefinition plant;
    private final Optional<SourceDefinition> meters;
    private final DestinationDefinition records;
    private final String by;
    private final DestinationDefinition files = destination(
            "Shift files",
            "CSV files, one a shift",
            "folder",
            Map.of("folder", "shifts", "format", "csv", "batchRows", "10", "batchSeconds", "60", "keepDays", "365"));
    private final DestinationDefinition events = destination(
            "Event files", "JSON Lines, a file a day", "folder", Map.of("folder", "events", "format", "jsonl"));
    private final DestinationDefinition books = destination(
            "Workbooks",
            "XLSX, a workbook a day",
            "folder",
            Map.of("folder", "workbooks", "format", "xlsx", "batchRows", "1000", "batchSeconds", "60"));
    private final DestinationDefinition energy =
            destination("Energy records", "A SQLite file to take along", "sqlite", Map.of("file", "energy.db"));

    DemoRecorders(
            Definitions definitions,
            Drafts drafts,
            SourceDefinition plant,
            Optional<SourceDefinition> meters,
            DestinationDefinition records,
            String by) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.plant = plant;
        this.meters = meters;
        this.records = records;
        this.by = by;
    }

    private static DestinationDefinition destination(
            String name, String description, String kind, Map<String, String> settings) {
        return new DestinationDefinition(Definitions.newId(), name, description, kind, settings);
    }

    static ShiftCalendarDefinition shifts() {
        return ShiftCalendarDefinition.of(new ShiftCalendar(
                List.of(
                        new Shift("Early", LocalTime.of(6, 0), LocalTime.of(14, 0), ALL),
                        new Shift("Late", LocalTime.of(14, 0), LocalTime.of(22, 0), ALL),
                        new Shift("Night", LocalTime.of(22, 0), LocalTime.of(6, 0), ALL)),
                List.of(),
                true));
    }

    void make() {
        List<RecorderDefinition> all = new ArrayList<>();
        all.add(recorder("Dryer log", dryer(), List.of(every(5)), into(records, "dryer_log")));
        RecorderDefinition line = recorder(
                        "Pellet line 1",
                        columns(
                                "PL1",
                                "State",
                                "Lot ID",
                                "Die temperature",
                                "Main motor power",
                                "Feed screw speed",
                                "Pellet output",
                                "Pellets made"),
                        List.of(every(10)),
                        into(records, "pellet_line_1"))
                .withKeys(List.of("lot_id"));
        all.add(line);
        RecorderLines lines = new RecorderLines();
        Proposals.of(
                        lines,
                        line,
                        definitions.all(EquipmentDefinition.class),
                        plant.tags().stream()
                                .map(tag -> new Alike.Placed(new TagRef(plant.id(), tag.address()), tag))
                                .toList())
                .forEach(proposed -> all.add(proposed.line(lines, line, Definitions.newId())));
        all.add(recorder(
                "Mill vibration",
                columns("HM1", "Vibration", "Bearing temperature", "Motor power"),
                List.of(every(1)),
                into(records, "mill_vibration")));
        all.add(recorder(
                "Bag counts",
                columns("BG1", "Bag count", "Lot ID", "Bags per minute"),
                List.of(every(60)),
                into(records, "bag_counts")));
        all.add(bags());
        all.add(changes());
        all.add(lots());
        all.add(stops());
        all.add(blockage());
        all.add(shiftTotals());
        all.add(daily());
        all.add(pallets());
        meters.ifPresent(each -> all.add(hourly(each)));
        drafts.editAll(List.of(files, events, books, energy, shifts()), by);
        drafts.editAll(all, by);
    }

    /** The bagger keeps a record of each pallet until it is confirmed; then it shows the next one. */
    private RecorderDefinition pallets() {
        return recorder(
                        "Pallet records",
                        columns("BG1", "Record index", "Record lot", "Record bags", "Record net weight"),
                        List.of(new When.OnRequest(
                                tag("BG1", "Record index"),
                                Optional.empty(),
                                Optional.of(tag("BG1", "Confirmed record")))),
                        into(records, "pallet_record"))
                .withConfirms(Optional.of(Confirmation.that(Confirmation.Of.LANDED)
                        .withCode(Optional.of(tag("BG1", "Confirmation code")))
                        .withSettle(Duration.ofMillis(200))))
                .withKeys(List.of("record_lot"));
    }

    /** A row a bag, with what the checkweigher found: both change at the same instant. */
    private RecorderDefinition bags() {
        Layout layout = columns("BG1", "Bag count", "Lot ID");
        return recorder(
                        "Bags",
                        layout.plus(column(layout, "CW1", "Last bag")),
                        List.of(new When.OnChange(
                                Deadband.NONE, List.of(tag("BG1", "Bag count")), Duration.ZERO, Duration.ZERO)),
                        into(records, "bag"))
                .withKeys(List.of("lot_id"));
    }

    private static When every(int seconds) {
        return new When.Every(Duration.ofSeconds(seconds));
    }

    private static Where into(DestinationDefinition destination, String table) {
        return new Where(destination.id(), table, BOTH, false);
    }

    private static RecorderDefinition recorder(String name, Layout layout, List<When> whens, Where... wheres) {
        return new RecorderDefinition(Definitions.newId(), name, "", whens, layout, List.of(wheres));
    }

    private TagInfo info(String equipment, String name) {
        return plant.tags().stream()
                .filter(each -> each.path().endsWith(equipment) && each.name().equals(name))
                .findFirst()
                .orElseThrow();
    }

    private TagRef tag(String equipment, String name) {
        return new TagRef(plant.id(), info(equipment, name).address());
    }

    private Column column(Layout layout, String equipment, String name) {
        TagInfo tag = info(equipment, name);
        return Column.of(
                layout.freeName(name),
                TypeChoice.forKind(tag.kind()),
                new ColumnSource.FromTag(tag(equipment, name), Aspect.VALUE));
    }

    private Layout columns(String equipment, String... names) {
        Layout layout = Layout.proposed();
        for (String name : names) {
            layout = layout.plus(column(layout, equipment, name));
        }
        return layout;
    }

    /** Rounded to what the sensors are worth, with the quality of the one that fails now and then. */
    private Layout dryer() {
        Layout layout = columns(
                "Drum dryer",
                "Inlet temperature",
                "Outlet temperature",
                "Fan speed",
                "Wet chip feed",
                "Chip moisture in",
                "Chip moisture out");
        int outlet =
                layout.columns().indexOf(layout.column("outlet_temperature").orElseThrow());
        layout = layout.with(
                outlet,
                layout.columns()
                        .get(outlet)
                        .treated(new Treatment(
                                BigDecimal.ONE, BigDecimal.ZERO, Optional.empty(), OptionalInt.of(1), Map.of())));
        return layout.plus(Column.of(
                "chip_moisture_out_quality",
                SqlType.text(120),
                new ColumnSource.FromTag(tag("Drum dryer", "Chip moisture out"), Aspect.QUALITY)));
    }

    /** A row per tag, when it changes by more than a part of its span, and at least every five minutes. */
    private RecorderDefinition changes() {
        List<Line> lines = new ArrayList<>();
        for (String machine : List.of("PL1", "PL2", "PL3")) {
            for (String name : List.of("Die temperature", "Main motor power", "Pellet output", "State")) {
                lines.add(new Line(
                        tag(machine, name), name, machine, info(machine, name).unit()));
            }
        }
        When change = new When.OnChange(
                new Deadband(Deadband.Kind.PERCENT, 2), List.of(), Duration.ofSeconds(1), Duration.ofMinutes(5));
        return recorder(
                "Line values on change",
                Layout.proposed(Shape.ROW_PER_TAG).withLines(lines),
                List.of(change),
                into(records, "line_values"));
    }

    /** One row a lot, made when it begins and kept up while it runs. */
    private RecorderDefinition lots() {
        Layout layout = new Layout(List.of(new Column(
                        "lot_id",
                        SqlType.text(40),
                        new ColumnSource.FromTag(tag("PL1", "Lot ID"), Aspect.VALUE),
                        true,
                        BadQuality.SKIP_ROW)))
                .plus(Column.of("last_seen", SqlType.timestamp(0), new ColumnSource.FromRun(Variable.RECORD_TIME)))
                .plus(Column.of("shift", SqlType.text(20), new ColumnSource.FromRun(Variable.SHIFT)))
                .plus(Column.of("shift_date", SqlType.DATE, new ColumnSource.FromRun(Variable.SHIFT_DATE)));
        layout = layout.plus(column(layout, "PL1", "Pellets made"))
                .withKeys(List.of("lot_id"), List.of(List.of("shift_date")));
        List<When> whens =
                List.of(new When.OnIdentifier(tag("PL1", "Lot ID"), Duration.ofSeconds(2), Duration.ZERO), every(30));
        return recorder(
                "Lots of line 1",
                layout,
                whens,
                new Where(records.id(), "lots_line_1", BOTH, false, new WriteMode.InsertOrUpdate(), ""));
    }

    private Condition state(String text) {
        return new Condition(text, Map.of("state", tag("PL1", "State")));
    }

    /** A document a stop or start, into the database and into a file a day. */
    private RecorderDefinition stops() {
        List<Column> fields = List.of(
                Column.of("line.name", SqlType.text(10), new ColumnSource.Constant("PL1")),
                Column.of("line.state", SqlType.text(20), new ColumnSource.FromTag(tag("PL1", "State"), Aspect.VALUE)),
                Column.of("lot", SqlType.text(40), new ColumnSource.FromTag(tag("PL1", "Lot ID"), Aspect.VALUE)),
                Column.of(
                        "press.die_temperature",
                        SqlType.decimal(6, 1),
                        new ColumnSource.FromTag(tag("PL1", "Die temperature"), Aspect.VALUE)),
                Column.of(
                        "press.kw_per_tonne",
                        SqlType.decimal(8, 1),
                        new ColumnSource.FromFormula(
                                "if(output > 0.1, power / output, 0)",
                                Map.of(
                                        "power",
                                        tag("PL1", "Main motor power"),
                                        "output",
                                        tag("PL1", "Pellet output")))));
        Layout layout = Layout.proposed(Shape.DOCUMENT);
        int at = layout.columns().indexOf(layout.documentColumn().orElseThrow());
        layout = layout.with(at, layout.columns().get(at).from(new ColumnSource.Document(fields)));
        When runs =
                new When.OnCondition(state("state = \"run\""), When.Edge.BOTH, Duration.ofSeconds(3), Duration.ZERO);
        When change = new When.Every(Duration.ofMinutes(5));
        return recorder(
                "Starts and stops of line 1",
                layout,
                List.of(runs, change),
                into(records, "line_1_events"),
                into(events, "line_1_{yyyy}-{MM}-{dd}"));
    }

    /** The press in detail while its die is blocked. */
    private RecorderDefinition blockage() {
        return recorder(
                "Die blockage detail",
                columns("PL1", "State", "Main motor power", "Die temperature", "Feed screw speed"),
                List.of(new When.WhileTrue(state("state = \"fault\""), Duration.ofMillis(500))),
                into(records, "die_blockages"));
    }

    /** Counters at each shift end, a file a shift; and every ten seconds while the line runs, a workbook a day. */
    private RecorderDefinition shiftTotals() {
        Layout layout = new Layout(List.of(
                Column.of("record_time", SqlType.timestamp(0), new ColumnSource.FromRun(Variable.RECORD_TIME)),
                Column.of("shift_date", SqlType.DATE, new ColumnSource.FromRun(Variable.SHIFT_DATE)),
                Column.of("shift", SqlType.text(20), new ColumnSource.FromRun(Variable.SHIFT))));
        for (String machine : List.of("PL1", "PL2", "PL3")) {
            layout = layout.plus(column(layout, machine, "Pellets made")
                    .named(machine.toLowerCase(java.util.Locale.ROOT) + "_pellets_made"));
        }
        return recorder(
                        "Shift production",
                        layout,
                        List.of(new When.AtShiftEnds(When.Missed.RUN_LATE), every(60)),
                        into(files, "production_{shift date}_{shift}"),
                        into(books, "production_{yyyy}-{MM}"))
                .withGate(Optional.of(new Condition("output >= 0", Map.of("output", tag("PL1", "Pellet output")))));
    }

    private RecorderDefinition daily() {
        return recorder(
                "Day totals",
                columns("PL1", "Pellets made", "Running hours")
                        .plus(Column.of("day", SqlType.DATE, new ColumnSource.FromRun(Variable.RECORD_TIME))),
                List.of(new When.AtTimes(ALL, List.of(LocalTime.of(0, 0), LocalTime.NOON), false, When.Missed.MARK)),
                into(records, "day_totals"));
    }

    private RecorderDefinition hourly(SourceDefinition source) {
        Layout layout = Layout.proposed();
        for (TagInfo tag : source.tags().stream()
                .filter(each -> each.name().equals("Energy"))
                .toList()) {
            String meter = tag.path().substring(tag.path().lastIndexOf('/') + 1).strip();
            layout = layout.plus(new Column(
                    layout.freeName(meter + " kWh"),
                    SqlType.decimal(12, 1),
                    new ColumnSource.FromTag(new TagRef(source.id(), tag.address()), Aspect.VALUE),
                    false,
                    BadQuality.LAST_GOOD));
        }
        return recorder(
                "Quarter-hour energy",
                layout,
                List.of(new When.ByCron("*/15 * * * *", false, When.Missed.SKIP)),
                into(energy, "quarter_hours"));
    }
}
