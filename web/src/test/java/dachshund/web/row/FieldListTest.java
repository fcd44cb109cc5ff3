package dachshund.web.row;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Treatment;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.tag.TagTable;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import java.math.BigDecimal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Columns that go out as CSV come back as they were, whatever they are named; what a list says wrongly is refused by its line. */
class FieldListTest {

    private static final SourceDefinition WORKS = new SourceDefinition(
            "a0000001",
            "Pellet works",
            "",
            "opcua",
            Map.of(),
            Duration.ofSeconds(1),
            List.of(
                    new TagInfo("out", "Dryer", "Outlet", DataKind.NUMBER, "°C", "", false),
                            new TagInfo("lot", "Bagging", "=Lot, \"the\" id", DataKind.TEXT, "", "", false),
                    new TagInfo("twin 1", "Mill", "Motor", DataKind.NUMBER, "kW", "", false),
                            new TagInfo("twin 2", "Mill", "Motor", DataKind.NUMBER, "A", "", false)));
    private static final List<SqlType> TYPES = List.of(
            SqlType.BOOLEAN,
            SqlType.INTEGER,
            SqlType.BIGINT,
            SqlType.DOUBLE,
            SqlType.DATE,
            SqlType.JSON,
            SqlType.UUID,
            SqlType.decimal(12, 3),
            SqlType.text(200),
            SqlType.timestamp(0),
            SqlType.timestamp(6));
    private static final List<String> NAMES = List.of(
            "outlet",
            "Outlet temperature",
            "a;b",
            "a,b",
            "\"quoted\"",
            "=SUM(A1)",
            "-5",
            "+49",
            "@home",
            "naïve",
            "日本",
            "select",
            "x\ty",
            "'led",
            "12");

    private final Definitions definitions = mock(Definitions.class);
    private final TagFinder finder = mock(TagFinder.class);
    private final FieldList list = new FieldList(definitions, finder);

    @BeforeEach
    void know() {
        when(definitions.find("a0000001")).thenReturn(Optional.<Definition>of(WORKS));
        TagTable tags = new TagTable(() -> java.time.Instant.EPOCH);
        List<TagFinder.FoundTag> found = new ArrayList<>();
        for (TagInfo tag : WORKS.tags()) {
            TagRef ref = new TagRef("a0000001", tag.address());
            when(definitions.tag(ref)).thenReturn(Optional.of(tag));
            found.add(new TagFinder.FoundTag(WORKS, tag, tags.entry(ref), Set.of(), Optional.empty(), ""));
        }
        when(finder.find(anyString(), anyString())).thenReturn(found);
        when(finder.find(any(TagRef.class))).thenReturn(Optional.empty());
    }

    private static ColumnSource source(Random random) {
        return switch (random.nextInt(6)) {
            case 0 -> new ColumnSource.Constant(NAMES.get(random.nextInt(NAMES.size())));
            case 1 ->
                new ColumnSource.FromRun(
                        ColumnSource.Variable.values()[random.nextInt(ColumnSource.Variable.values().length)]);
            case 2 -> new ColumnSource.FromProperty("", "Outlet temperature", ColumnSource.Aspect.VALUE);
            case 3 -> new ColumnSource.FromFormula("outlet * 2", Map.of("outlet", new TagRef("a0000001", "out")));
            default ->
                new ColumnSource.FromTag(
                        new TagRef(
                                "a0000001", WORKS.tags().get(random.nextInt(4)).address()),
                        ColumnSource.Aspect.values()[random.nextInt(ColumnSource.Aspect.values().length)]);
        };
    }

    private static Treatment treatment(Random random) {
        Optional<Range> clamp =
                switch (random.nextInt(4)) {
                    case 0 -> Optional.of(new Range(-1.5, 20));
                    case 1 -> Optional.of(new Range(0, Double.MAX_VALUE));
                    case 2 -> Optional.of(new Range(-Double.MAX_VALUE, 100));
                    default -> Optional.empty();
                };
        return new Treatment(
                new BigDecimal(random.nextBoolean() ? "1" : "-0.001"),
                new BigDecimal(random.nextBoolean() ? "0" : "273.15"),
                clamp,
                random.nextBoolean() ? OptionalInt.empty() : OptionalInt.of(random.nextInt(11)),
                random.nextBoolean() ? Map.of() : Map.of("0", "idle", "1", "=run", "-1", "fault, blocked"));
    }

    private static Layout layout(Random random) {
        List<Column> columns = new ArrayList<>();
        List<String> keys = new ArrayList<>();
        for (String name : NAMES) {
            if (random.nextInt(3) > 0) {
                columns.add(new Column(
                        name,
                        TYPES.get(random.nextInt(TYPES.size())),
                        source(random),
                        random.nextBoolean(),
                        BadQuality.values()[random.nextInt(BadQuality.values().length)],
                        treatment(random)));
                if (random.nextInt(4) == 0) {
                    keys.add(name);
                }
            }
        }
        columns.add(Column.of("last", SqlType.DOUBLE, new ColumnSource.Constant("1")));
        return new Layout(columns).withKeys(keys, List.of());
    }

    @Test
    void whatGoesOutComesBackAsItWas() {
        Random random = new Random(4);
        for (int round = 0; round < 300; round++) {
            Layout layout = layout(random);
            FieldList.Read read = list.read(layout, list.write(layout));
            assertThat(read.problems()).as("round " + round).isEmpty();
            assertThat(read.layout().columns()).as("round " + round).hasSameSizeAs(layout.columns());
            for (int i = 0; i < layout.columns().size(); i++) {
                assertThat(read.layout().columns().get(i))
                        .as("round " + round)
                        .isEqualTo(layout.columns().get(i));
            }
            assertThat(read.layout().key()).isEqualTo(layout.key());
        }
    }

    @Test
    void theOrderOfTheLinesIsTheOrderOfTheColumns() {
        Layout layout = layout(new Random(9));
        List<String> lines = list.write(layout).lines().toList();
        List<String> turned = new ArrayList<>(lines.subList(1, lines.size()));
        java.util.Collections.reverse(turned);
        List<String> names =
                list.read(layout, lines.get(0) + "\n" + String.join("\n", turned)).layout().columns().stream()
                        .map(Column::name)
                        .toList();
        List<String> wanted =
                new ArrayList<>(layout.columns().stream().map(Column::name).toList());
        java.util.Collections.reverse(wanted);
        assertThat(names).isEqualTo(wanted);
    }

    @Test
    void aSpreadsheetOfAnotherCountryWritesSemicolonsAndDecimalCommas() {
        FieldList.Read read = list.read(
                new Layout(List.of()),
                "name;type;source;of;factor;low\nOutlet;decimal(6,1);tag;Pellet works: Dryer / Outlet;0,1;-10,5\n");
        assertThat(read.problems()).isEmpty();
        Treatment treatment = read.layout().columns().get(0).treatment();
        assertThat(treatment.factor()).isEqualByComparingTo("0.1");
        assertThat(treatment.sentence()).isEqualTo("× 0.1, not below -10.5");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "name,type,source,of%nx,varchr(3),constant,1 | Line 2: type:",
                "name,type,source,of%n,double,constant,1 | Line 2: the name is missing.",
                "name,type,source,of%nx,double,tag,nowhere | Line 2: there is no tag \"nowhere\"",
                "name,type,source,of%nx,double,run,moon | Line 2: there is no run variable \"moon\".",
                "name,type,source,of%nx,double,guess,1 | Line 2: \"guess\" is no source",
                "name,type,source,of%nx,double,constant,1%nX,double,constant,2 | Line 3: there are two columns named X.",
                "name,type,source,of,factor%nx,double,constant,1,much | Line 2: factor: This is not a number.",
                "name,type,source,of,factor%nx,double,constant,1,0 | Line 2: factor: A factor of 0",
                "name,type,source,of,decimals%nx,double,constant,1,11 | Line 2: decimals: Round to 0 to 10 digits",
                "name,type,source,of,low,high%nx,double,constant,1,5,4 | Line 2: low:",
                "name,type,source,of,words%nx,double,constant,1,run | Line 2: words:",
                "name,type | There is no line."
            })
    void whatALineSaysWronglyIsRefusedWithItsNumberAndNothingIsTaken(String text, String sentence) {
        Layout before = Layout.proposed();
        FieldList.Read read = list.read(before, text.replace("%n", "\n"));
        assertThat(read.problems()).singleElement().asString().startsWith(sentence);
        assertThat(read.layout()).isSameAs(before);
    }
}
