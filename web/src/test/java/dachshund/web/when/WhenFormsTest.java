package dachshund.web.when;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.office.definition.Definitions;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** A When that is shown as a form and sent back as it stands is the same When; a field that cannot be read is named with a sentence. */
class WhenFormsTest {

    private static final TagRef LEVEL = new TagRef("a0000001", "level");
    private static final TagRef LOT = new TagRef("a0000001", "lot id");
    private static final RecorderDefinition RECORDER = new RecorderDefinition(
            "c0000001",
            "Silo log",
            "",
            List.of(new When.Every(Duration.ofSeconds(1))),
            Layout.proposed()
                    .plus(Column.of(
                            "level", SqlType.DOUBLE, new ColumnSource.FromTag(LEVEL, ColumnSource.Aspect.VALUE)))
                    .plus(Column.of("lot", SqlType.text(20), new ColumnSource.FromTag(LOT, ColumnSource.Aspect.VALUE))),
            List.of());
    private static final List<Duration> LENGTHS = List.of(
            Duration.ofMillis(10),
            Duration.ofMillis(250),
            Duration.ofMillis(1500),
            Duration.ofSeconds(1),
            Duration.ofSeconds(90),
            Duration.ofMinutes(5),
            Duration.ofHours(24));

    private final Definitions definitions = mock(Definitions.class);
    private final WhenForms forms = new WhenForms(definitions);

    @BeforeEach
    void know() {
        when(definitions.tag(any())).thenReturn(Optional.empty());
        when(definitions.tag(LEVEL))
                .thenReturn(Optional.of(new TagInfo("level", "Silo", "Level", DataKind.NUMBER, "%", "", false)));
        when(definitions.tag(LOT))
                .thenReturn(Optional.of(new TagInfo("lot id", "Silo", "Lot id", DataKind.TEXT, "", "", false)));
    }

    private static Duration length(Random random) {
        return LENGTHS.get(random.nextInt(LENGTHS.size()));
    }

    private static Duration maybe(Random random) {
        return random.nextBoolean() ? Duration.ZERO : length(random);
    }

    private static When some(WhenForms.Kind kind, Random random) {
        When.Missed missed = When.Missed.values()[random.nextInt(When.Missed.values().length)];
        Condition condition = new Condition("level > 80", Map.of("level", LEVEL));
        return switch (kind) {
            case EVERY -> new When.Every(length(random), random.nextBoolean());
            case CHANGE ->
                new When.OnChange(
                        random.nextBoolean()
                                ? Deadband.NONE
                                : new Deadband(
                                        random.nextBoolean() ? Deadband.Kind.ABSOLUTE : Deadband.Kind.PERCENT,
                                        0.05 + random.nextInt(20)),
                        random.nextBoolean() ? List.of() : List.of(LOT, LEVEL),
                        Duration.ZERO,
                        maybe(random));
            case TIMES ->
                new When.AtTimes(
                        random.nextBoolean() ? Set.of(DayOfWeek.values()) : Set.of(DayOfWeek.SUNDAY, DayOfWeek.MONDAY),
                        List.of(LocalTime.of(0, 0), LocalTime.of(6, 0), LocalTime.of(23, 59, 59)),
                        random.nextBoolean(),
                        missed);
            case SHIFT_ENDS -> new When.AtShiftEnds(missed);
            case CRON -> new When.ByCron("*/15 6-18 * * 1-5", random.nextBoolean(), missed);
            case CONDITION ->
                new When.OnCondition(
                        condition,
                        When.Edge.values()[random.nextInt(When.Edge.values().length)],
                        maybe(random),
                        maybe(random));
            case IDENTIFIER -> new When.OnIdentifier(random.nextBoolean() ? LOT : LEVEL, maybe(random), maybe(random));
            case REQUEST ->
                new When.OnRequest(
                        LOT, random.nextBoolean() ? Optional.of(LEVEL) : Optional.empty(), Optional.of(LEVEL));
            case AFTER -> new When.AfterTransaction(random.nextBoolean() ? "" : "d0000001");
            case NEW_ROW ->
                new When.OnNewRow(
                        random.nextBoolean() ? "" : "b0000001",
                        "lab.sample",
                        random.nextBoolean() ? List.of() : List.of("lot_id", "sample no"),
                        "taken",
                        random.nextBoolean() ? Duration.ofMinutes(10) : Duration.ZERO,
                        0,
                        Duration.ofSeconds(5));
            case WHILE -> new When.WhileTrue(condition, length(random));
        };
    }

    private WhenForms.Form shown(When when) {
        return forms.forms(RECORDER.withWhens(List.of(when))).get(0);
    }

    /** What a browser sends of a form that nobody touched: a box that is not ticked is not sent. */
    private static Map<String, String> sent(WhenForms.Form form) {
        Map<String, String> sent = new HashMap<>(form.values());
        sent.values().remove("false");
        return sent;
    }

    private When back(WhenForms.Form form, When before) throws WhenForms.Refused {
        List<String> tags = form.tags().stream()
                .filter(WhenForms.Choice::chosen)
                .map(WhenForms.Choice::key)
                .toList();
        return forms.read(sent(form), new ArrayList<>(form.days()), tags, before, RECORDER);
    }

    @Test
    void aFormThatNobodyTouchedSaysTheSameWhen() throws Exception {
        Random random = new Random(11);
        for (WhenForms.Kind kind : WhenForms.Kind.values()) {
            for (int round = 0; round < 60; round++) {
                When before = some(kind, random);
                When after = back(shown(before), before);
                if (before instanceof When.OnChange was && after instanceof When.OnChange is) {
                    assertThat(new HashSet<>(is.tags()))
                            .as("in the order of the row")
                            .isEqualTo(new HashSet<>(was.tags()));
                    assertThat(new When.OnChange(is.deadband(), was.tags(), is.notMoreOften(), is.atLeast()))
                            .isEqualTo(was);
                } else {
                    assertThat(after).isEqualTo(before);
                }
                assertThat(after.sentence()).isEqualTo(before.sentence());
            }
        }
    }

    @Test
    void everyKindBeginsWithSomethingThatItsOwnFormUnderstands() throws Exception {
        for (WhenForms.Kind kind : WhenForms.Kind.values()) {
            When fresh = forms.fresh(kind, RECORDER);
            assertThat(WhenForms.Kind.of(fresh)).isEqualTo(kind);
            assertThat(back(shown(fresh), fresh)).as(kind.words()).isEqualTo(fresh);
        }
        assertThat(((When.OnIdentifier) forms.fresh(WhenForms.Kind.IDENTIFIER, RECORDER)).tag())
                .as("a text is more likely an identifier")
                .isEqualTo(LOT);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "EVERY | period | | period",
                "EVERY | period | soon | period",
                "EVERY | period | 5 ms | period",
                "EVERY | period | 25 h | period",
                "EVERY | period | -1 s | period",
                "CHANGE | amount | much | amount",
                "CHANGE | amount | -1 | amount",
                "CHANGE | notMoreOften | often | notMoreOften",
                "CHANGE | atLeast | 0.5.5 s | atLeast",
                "TIMES | times | 25:00 | times",
                "TIMES | times | noon | times",
                "TIMES | times | | times",
                "CRON | line | every day | line",
                "CRON | line | * * * | line",
                "CRON | line | | line",
                "CONDITION | debounce | x | debounce",
                "CONDITION | holdOff | 3 fortnights | holdOff",
                "IDENTIFIER | debounce | ? | debounce",
                "WHILE | period | 0 s | period"
            })
    void aFieldThatCannotBeReadIsNamedWithASentence(WhenForms.Kind kind, String field, String typed, String named) {
        Random random = new Random(3);
        When before = kind == WhenForms.Kind.CHANGE
                ? new When.OnChange(new Deadband(Deadband.Kind.ABSOLUTE, 1), List.of(), Duration.ZERO, Duration.ZERO)
                : some(kind, random);
        WhenForms.Form form = shown(before);
        Map<String, String> sent = sent(form);
        sent.put(field, typed == null ? "" : typed);
        WhenForms.Refused refused = catchThrowableOfType(
                WhenForms.Refused.class,
                () -> forms.read(sent, new ArrayList<>(form.days()), List.of(), before, RECORDER));
        assertThat(refused).as(kind + " " + field + " = " + typed).isNotNull();
        assertThat(refused.field()).isEqualTo(named);
        assertThat(refused.getMessage()).endsWith(".").doesNotContain("Exception", "java.");
    }
}
