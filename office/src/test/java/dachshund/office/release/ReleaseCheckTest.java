package dachshund.office.release;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableDescription.TableColumn;
import dachshund.core.destination.WriteMode;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.formula.FormulaTag;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.release.Differences;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Confirmation;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.engine.formula.FormulaKind;
import dachshund.engine.source.Sources;
import dachshund.engine.tag.TagTable;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.unrun.SqlServerDialect;
import dachshund.links.unrun.StatementsOnlyKind;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Releases;
import dachshund.office.reach.Reaching;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What a review says that follows, and what it refuses; over hundreds of recorders a destination is opened once. */
class ReleaseCheckTest {

    private static final TagRef OUTLET = new TagRef("a0000001", "out");
    private static final DestinationDefinition RECORDS =
            new DestinationDefinition("b0000001", "Records", "", "mariadb", Map.of("database", "records"));
    private static final DestinationDefinition OFFICE =
            new DestinationDefinition("b0000002", "Head office", "", "sqlserver", Map.of("database", "records"));
    private static final Layout LAYOUT = Layout.proposed()
            .plus(Column.of("outlet", SqlType.DOUBLE, new ColumnSource.FromTag(OUTLET, ColumnSource.Aspect.VALUE)));
    private static final Upkeep MAY = new Upkeep(true, true);

    private final Definitions definitions = mock(Definitions.class);
    private final Releases releases = mock(Releases.class);
    private final Engine engine = mock(Engine.class);
    private final Reaching reaching = mock(Reaching.class);
    private final RowStore store = mock(RowStore.class);
    private final ReleaseCheck check = new ReleaseCheck(
            definitions,
            releases,
            engine,
            reaching,
            List.of(
                    new RecorderCheck(definitions, engine, new WrittenTags(definitions, engine)),
                    new SourceCheck(engine),
                    new EquipmentCheck()));

    @BeforeEach
    void know() throws StoreProblem {
        when(definitions.tag(OUTLET))
                .thenReturn(Optional.of(new TagInfo("out", "Dryer", "Outlet", DataKind.NUMBER, "°C", "", false)));
        when(definitions.destination(anyString())).thenReturn(Optional.empty());
        when(definitions.destination("b0000001")).thenReturn(Optional.of(RECORDS));
        when(definitions.destination("b0000002")).thenReturn(Optional.of(OFFICE));
        when(engine.plant(any())).thenReturn(new Plant("Quillmoor", ZoneOffset.UTC, List.of()));
        when(engine.storeKind("mariadb")).thenReturn(MariaDbEngine.mariaDb());
        when(engine.storeKind("sqlserver")).thenReturn(new StatementsOnlyKind("sqlserver", new SqlServerDialect()));
        when(reaching.look(any())).thenReturn(store);
        when(store.in("")).thenReturn(store);
        when(store.describe(anyString())).thenReturn(Optional.empty());
    }

    private static RecorderDefinition recorder(int number, Where... wheres) {
        return new RecorderDefinition(
                String.format("c%07x", number),
                "Dryer " + number,
                "",
                List.of(new When.Every(Duration.ofSeconds(10))),
                LAYOUT,
                List.of(wheres));
    }

    private static Where into(String destination, String table) {
        return new Where(destination, table, MAY, false);
    }

    private List<ReleaseCheck.Item> checked(Definition... drafts) {
        List<Definition> after = new ArrayList<>(List.of(RECORDS, OFFICE));
        after.addAll(List.of(drafts));
        when(definitions.after(any())).thenReturn(after);
        when(releases.differences(any())).thenReturn(Differences.between(List.of(RECORDS, OFFICE), after));
        return check.items(Set.of());
    }

    private ReleaseCheck.Item only(Where... wheres) {
        return checked(recorder(1, wheres)).get(0);
    }

    /** Two that tell the plant in one tag would talk over each other. */
    @Test
    void whoeverTellsThePlantInATagOfAnotherIsNamed() {
        TagRef number = new TagRef("a0000001", "number");
        TagRef echo = new TagRef("a0000001", "echo");
        for (TagRef tag : List.of(number, echo)) {
            when(definitions.tag(tag))
                    .thenReturn(Optional.of(
                            new TagInfo(tag.address(), "Dryer", tag.address(), DataKind.INTEGER, "", "", true)));
        }
        Definition[] both = IntStream.of(1, 2)
                .mapToObj(n -> recorder(n, into("b0000001", "t" + n))
                        .withWhens(List.of(new When.OnRequest(number, Optional.empty(), Optional.of(echo))))
                        .withConfirms(Optional.of(Confirmation.that(Confirmation.Of.SAFE))))
                .toArray(Definition[]::new);
        assertThat(checked(both)).allSatisfy(item -> {
            assertThat(item.problems()).isEmpty();
            assertThat(item.consequences())
                    .anyMatch(
                            sentence -> sentence.matches("Dryer [12] writes .*echo as well: the later one counts\\."));
        });
    }

    @Test
    void hundredsOfRecordersOpenTheirDestinationOnceAndItIsClosed() throws StoreProblem {
        List<ReleaseCheck.Item> items = checked(IntStream.range(0, 300)
                .mapToObj(n -> recorder(n, into("b0000001", "dryer_" + n)))
                .toArray(Definition[]::new));
        assertThat(items).hasSize(300).allSatisfy(item -> {
            assertThat(item.problems()).isEmpty();
            assertThat(item.consequences())
                    .anyMatch(sentence -> sentence.matches("Makes the table dryer_\\d+ in Records\\."));
        });
        verify(reaching, times(1)).look(any());
        verify(store, times(300)).describe(anyString());
        verify(store, times(1)).close();
    }

    @Test
    void aDestinationThatIsAwayIsAskedOnceAndKeepsNobodyFromReleasing() throws StoreProblem {
        when(store.describe(anyString()))
                .thenThrow(new StoreProblem(StoreProblem.Kind.AWAY, -1, "Nobody answers at db:3306.", null));
        List<ReleaseCheck.Item> items = checked(IntStream.range(0, 50)
                .mapToObj(n -> recorder(n, into("b0000001", "dryer_" + n)))
                .toArray(Definition[]::new));
        assertThat(items).hasSize(50).allSatisfy(item -> {
            assertThat(item.problems()).isEmpty();
            assertThat(item.consequences())
                    .anyMatch(
                            sentence -> sentence.contains(
                                    "could not be looked at: Nobody answers at db:3306. Rows will be held on disk until it can."));
        });
        verify(store, times(1)).describe(anyString());
    }

    @Test
    void aTableThatIsThereIsToldFromOneThatIsMadeAndOneThatDoesNotFit() throws StoreProblem {
        List<TableColumn> columns = new ArrayList<>(List.of(
                new TableColumn("id", "bigint(20)", false, true),
                new TableColumn("record_time", "datetime(3)", true, false),
                new TableColumn("row_id", "varchar(40)", true, false),
                new TableColumn("outlet", "double", false, false)));
        when(store.describe("fits"))
                .thenReturn(Optional.of(new TableDescription("fits", columns, List.of(List.of("row_id")), true)));
        assertThat(only(into("b0000001", "fits")).consequences())
                .contains("The table fits in Records is there and stays as it is; rows are added.");
        when(store.describe("lacks"))
                .thenReturn(Optional.of(
                        new TableDescription("lacks", columns.subList(0, 3), List.of(List.of("row_id")), true)));
        assertThat(only(into("b0000001", "lacks")).consequences())
                .contains("Adds 1 column to lacks in Records; the rows that are there stay and have NULL in it.");
        columns.set(3, new TableColumn("outlet", "int(11)", false, false));
        when(store.describe("conflicts"))
                .thenReturn(Optional.of(new TableDescription("conflicts", columns, List.of(List.of("row_id")), true)));
        assertThat(only(into("b0000001", "conflicts")).problems())
                .singleElement()
                .asString()
                .contains("outlet of conflicts is int(11)");
    }

    @Test
    void namesThatTheRowGivesAreNotLookedUpAndTheirLimitIsSaid() throws StoreProblem {
        ReleaseCheck.Item tables = only(into("b0000001", "dryer_{yyyy}"));
        assertThat(tables.problems()).isEmpty();
        assertThat(tables.consequences())
                .anyMatch(sentence ->
                        sentence.contains("dryer_{yyyy}") && sentence.contains("the rows of a day make 1500 at most"));
        ReleaseCheck.Item byName = only(new Where(
                "b0000001", "dryer", MAY, false, new WriteMode.Insert(), "", "of {equipment}", "{equipment} records"));
        assertThat(byName.consequences())
                .contains(
                        "Each row goes to the destination named {equipment} records, and to Records where there is none of that name.");
        verify(store, never()).describe(anyString());
        assertThat(only(new Where("b0000001", "dryer_{who}", MAY, false)).problems())
                .anyMatch(sentence -> sentence.startsWith("Table name: {who} stands for nothing."));
        assertThat(only(new Where("b0000001", "dryer", MAY, false, new WriteMode.Insert(), "", "of {who}", ""))
                        .problems())
                .anyMatch(sentence -> sentence.startsWith("Database name: {who} stands for nothing."));
    }

    @Test
    void aDatabaseBesideIsMadeOnlyWherePermitted() throws StoreProblem {
        when(store.hasDatabase("line_2")).thenReturn(false);
        assertThat(only(new Where("b0000001", "dryer", MAY, false, new WriteMode.Insert(), "", "line_2", ""))
                        .consequences())
                .contains("Makes the database line_2 at Records with the table dryer.");
        assertThat(only(new Where("b0000001", "dryer", Upkeep.NONE, false, new WriteMode.Insert(), "", "line_2", ""))
                        .problems())
                .contains("There is no database line_2 at Records, and the recorder may not make its tables.");
    }

    @Test
    void whatCannotWorkIsRefused() {
        assertThat(only().problems()).contains("It has no destination: say where its rows go.");
        assertThat(only(into("gone0000", "t")).problems()).contains("It writes to a destination that is removed.");
        assertThat(only(into("b0000001", "t"), into("b0000001", "u")).problems())
                .contains("It writes to Records twice; make a second recorder for the second table.");
        assertThat(only(into("b0000002", "t")).problems())
                .anyMatch(sentence -> sentence.contains("its statements are generated and were never executed"));
        assertThat(only(new Where("b0000001", "t", MAY, false, new WriteMode.Insert(), "b0000002"))
                        .problems())
                .contains("Records stands in for a destination that the recorder does not write to.");
    }

    private void engineWithFormulas() {
        Sources sources = mock(Sources.class);
        when(engine.sources()).thenReturn(sources);
        FormulaKind formula = new FormulaKind(mock(TagTable.class));
        when(sources.kind(FormulaTag.LINK)).thenReturn(formula);
        when(sources.kind("none")).thenThrow(new IllegalArgumentException("There is no protocol none."));
        when(engine.plant(any()))
                .thenAnswer(asked -> new Plant("Quillmoor", ZoneOffset.UTC, asked.<List<Definition>>getArgument(0)));
    }

    private static SourceDefinition formulas(String link, String... texts) {
        return new SourceDefinition(
                "a0000009",
                "Formulas",
                "",
                link,
                Map.of(),
                Duration.ofSeconds(1),
                Stream.of(texts)
                        .map(text -> new TagInfo(text, "", "Tag " + text, DataKind.NUMBER, "kPa", "", false)
                                .withHow(Map.of(FormulaTag.FORMULA, text, FormulaTag.INPUTS, "")))
                        .toList());
    }

    @Test
    void aFormulaTagThatCannotBeReadIsNotReleased() {
        engineWithFormulas();
        assertThat(checked(formulas(FormulaTag.LINK, "1 + 2")).get(0).problems())
                .isEmpty();
        assertThat(checked(formulas(FormulaTag.LINK, "1 + 2", "1 +", "nobody * 2"))
                        .get(0)
                        .problems())
                .hasSize(2)
                .anyMatch(each -> each.startsWith("Tag nobody * 2: There is no input named nobody."));
        assertThat(checked(formulas(FormulaTag.LINK, "1+", "2+", "3+", "4+", "5+", "6+", "7+"))
                        .get(0)
                        .problems())
                .hasSize(6)
                .contains("2 more tags cannot be used as they are described.");
        assertThat(checked(formulas("none", "1 + 2")).get(0).problems()).containsExactly("There is no protocol none.");
    }

    @Test
    void aPressureIsNotReleasedAsAMass() {
        engineWithFormulas();
        SourceDefinition source = formulas(FormulaTag.LINK, "1 + 2");
        EquipmentClassDefinition scale = new EquipmentClassDefinition(
                "e0000001", "Scale", "", List.of(new PropertyDesign("mass", DataKind.NUMBER, "kg", false, "")));
        EquipmentDefinition one = new EquipmentDefinition(
                "e0000002",
                "Scale 1",
                "",
                scale.id(),
                "",
                Map.of("mass", PropertySource.FromTag.of(new TagRef(source.id(), "1 + 2"))));
        assertThat(checked(source, scale, one).stream()
                        .filter(item -> item.difference().thing().equals(one))
                        .flatMap(item -> item.problems().stream()))
                .singleElement()
                .asString()
                .startsWith("mass: the tag is in kPa, the property in kg;");
    }

    @Test
    void whoElseWritesToThePlaceIsSaid() {
        List<ReleaseCheck.Item> items = checked(
                recorder(1, into("b0000001", "dryer")),
                recorder(2, into("b0000001", "Dryer")),
                recorder(3, into("b0000001", "mill")));
        assertThat(items.get(0).consequences()).contains("Dryer 2 writes to dryer as well.");
        assertThat(items.get(1).consequences()).contains("Dryer 1 writes to Dryer as well.");
        assertThat(items.get(2).consequences()).noneMatch(each -> each.endsWith("as well."));
    }
}
