package dachshund.core.formula;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagValue;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Results worked out by hand. */
class FormulaTest {

    /** Whatever people type, computing it gives a value or a bad value with a reason, and ends. */
    @org.junit.jupiter.params.ParameterizedTest
    @org.junit.jupiter.params.provider.ValueSource(
            strings = {
                "middle(t, 5, 9)",
                "middle(t, 9, 5)",
                "left(t, 100)",
                "right(t, 100)",
                "round(1e999999999, 2)",
                "1e999999999 * 1e999999999",
                "floor(1e99999999)",
                "ceiling(9^999999)",
                "2^99999999",
                "round(1, 999999999)",
                "sqrt(0 - 1)",
                "1 / 0",
                "t * t",
                "t > 1",
                "not(t)",
                "if(t, 1, 2)"
            })
    void whateverIsTypedEndsInAValueOrAReason(String text) throws Exception {
        dachshund.core.formula.InputHistory history = new dachshund.core.formula.InputHistory(java.time.Duration.ZERO);
        java.time.Instant now = java.time.Instant.parse("2026-11-25T06:00:00Z");
        history.take(dachshund.core.tag.TagValue.good("abc", now), now);
        for (dachshund.core.tag.DataKind kind : dachshund.core.tag.DataKind.values()) {
            dachshund.core.tag.TagValue value =
                    Formula.read(text, java.util.Set.of("t")).evaluate(java.util.Map.of("t", history), kind, now);
            assertThat(value.value().isPresent() || !value.quality().words().isEmpty())
                    .as(text)
                    .isTrue();
        }
    }

    private static final Instant T0 = Instant.parse("2026-11-25T06:00:00Z");
    private final Map<String, InputHistory> inputs = new HashMap<>();

    private FormulaTest input(String name, Object value) {
        inputs.computeIfAbsent(name, n -> new InputHistory(Duration.ofHours(1))).take(TagValue.good(value, T0), T0);
        return this;
    }

    private TagValue at(String text, DataKind kind, Instant now) throws FormulaProblem {
        return Formula.read(text, inputs.keySet()).evaluate(inputs, kind, now);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "a + b * 2 | 16", "(a + b) * 2 | 20", "a / b - 0.5 | 0.1666666666666667", "b % 4 | 2",
                        "2 ^ 3 ^ 2 | 512", "-a ^ 2 | 16",
                "if(a > b, 1, 2) | 2", "if(a = 4 && b <> 4, 10, 20) | 10", "min(a, b, 3) | 3", "max(a, b) | 6",
                        "round(2.345, 2) | 2.35", "round(2.355, 2) | 2.36",
                "floor(-1.5) | -2", "ceiling(1.2) | 2", "abs(a - b) | 2", "sqrt(a) | 2", "if(not(run), 1, 0) | 0",
                        "length(lot) | 7",
                "convert(a, \"kW\", \"MW\") | 0.004", "convert(212, \"°F\", \"°C\") | 100", "0.1 + 0.2 | 0.3"
            })
    void numbers(String text, double expected) throws FormulaProblem {
        input("a", 4L).input("b", 6.0).input("run", true).input("lot", "PL1-042");
        TagValue result = at(text, DataKind.NUMBER, T0);
        assertThat(result.quality()).isEqualTo(Quality.GOOD);
        assertThat((Double) result.value().orElseThrow())
                .isCloseTo(expected, org.assertj.core.api.Assertions.within(1e-14));
    }

    @Test
    void textsTruthAndWholeNumbers() throws FormulaProblem {
        input("lot", "PL1-042").input("n", 2.5);
        assertThat(at("left(lot, 3) + \"/\" + right(lot, 3)", DataKind.TEXT, T0).value())
                .contains("PL1/042");
        assertThat(at("upper(middle(lot, 0, 2)) + n", DataKind.TEXT, T0).value())
                .contains("PL2.5");
        assertThat(at("contains(lot, \"042\") && n > 2", DataKind.BOOLEAN, T0).value())
                .contains(true);
        assertThat(at("n * 1", DataKind.INTEGER, T0).value()).contains(3L);
        assertThat(at("lot", DataKind.NUMBER, T0).quality().isBad()).isTrue();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = ';',
            value = {
                "a > 1 and b > 1 ; true",
                "a > 9 or b = 6 ; true",
                "not run ; false",
                "not(run) ; false",
                "NOT a > 9 AND run ; true",
                "a > 9 and b = 6 or run ; true",
                "a > 9 or not run and b = 6 ; false",
                "not (a > 1 && run) || b < 0 ; false",
                "if(a > 1 and not(b > 9), 1, 0) = 1 ; true",
                "find(lot, \"L1\") = 1 ; true",
                "find(lot, \"l1\") = -1 ; true",
                "find(lot, \"\") = 0 ; true",
                "contains(lot, \"l1\") ; true",
                "lot = \"pl1-042\" ; false"
            })
    void conditionsInWordsAndInSigns(String text, boolean expected) throws FormulaProblem {
        input("a", 4L).input("b", 6.0).input("run", true).input("lot", "PL1-042");
        assertThat(at(text, DataKind.BOOLEAN, T0).value()).as(text).contains(expected);
    }

    @Test
    void whateverArrivesIsCountedButWhatIsBad() throws FormulaProblem {
        InputHistory lot = new InputHistory(Duration.ofMinutes(10));
        inputs.put("lot", lot);
        for (int i = 0; i < 5; i++) {
            lot.take(TagValue.good(i % 2 == 0 ? "A" + i : (Object) true, T0.plusSeconds(i)), T0.plusSeconds(i));
        }
        lot.take(bad(T0.plusSeconds(5)), T0.plusSeconds(5));
        assertThat(at("count(lot, \"10 min\")", DataKind.INTEGER, T0.plusSeconds(5))
                        .value())
                .contains(5L);
    }

    private static TagValue bad(Instant at) {
        return new TagValue(Optional.empty(), Quality.bad(0x80000000L, "away"), at, at);
    }

    /** 10 for 6 min, 20 for 3 min, 100 for 1 min: a mean of values is 43.3, over time it is 22. */
    @Test
    void aMeanWeightedByTimeCountsHowLongEachValueStood() throws FormulaProblem {
        InputHistory flow = new InputHistory(Duration.ofMinutes(10));
        inputs.put("flow", flow);
        flow.take(TagValue.good(10.0, T0.minusSeconds(3600)), T0.minusSeconds(3600));
        flow.take(TagValue.good(20.0, T0.plusSeconds(360)), T0.plusSeconds(360));
        flow.take(TagValue.good(100.0, T0.plusSeconds(540)), T0.plusSeconds(540));
        Instant now = T0.plusSeconds(600);
        assertThat(at("weighted(flow, \"10 min\")", DataKind.NUMBER, now).value())
                .contains(22.0);
        assertThat(at("weighted(flow, \"2 min\")", DataKind.NUMBER, now).value())
                .contains(60.0);
        assertThat(at("weighted(flow, \"30 s\")", DataKind.NUMBER, now.plusSeconds(600))
                        .value())
                .contains(100.0);
        flow.take(bad(now), now);
        flow.take(TagValue.good(0.0, now.plusSeconds(60)), now.plusSeconds(60));
        assertThat(at("weighted(flow, \"3 min\")", DataKind.NUMBER, now.plusSeconds(120))
                        .value())
                .as("the bad minute does not count: 100 for a minute, 0 for a minute")
                .contains(50.0);
    }

    @Test
    void aCountersIncreaseGoesOnWhereItStartsAgainOrGoesRound() throws FormulaProblem {
        InputHistory counter = new InputHistory(Duration.ofMinutes(10));
        inputs.put("counter", counter);
        double[] counts = {900, 950, 990, 20, 60};
        for (int i = 0; i < counts.length; i++) {
            counter.take(TagValue.good(counts[i], T0.plusSeconds(60L * i)), T0.plusSeconds(60L * i));
        }
        Instant now = T0.plusSeconds(270);
        assertThat(at("increase(counter, \"10 min\")", DataKind.NUMBER, now).value())
                .contains(150.0); // 50+40+20+40
        assertThat(at("increase(counter, \"10 min\", 1000)", DataKind.NUMBER, now)
                        .value())
                .contains(160.0); // 50+40+30+40
        assertThat(at("increase(counter, \"2 min\")", DataKind.NUMBER, now).value())
                .as("from what stood when the window began: 990")
                .contains(60.0);
        assertThat(at("increase(counter, \"1 min\")", DataKind.NUMBER, now.plusSeconds(600))
                        .value())
                .as("it stood still")
                .contains(0.0);
        inputs.put("none", new InputHistory(Duration.ofMinutes(10)));
        assertThat(at("increase(none, \"1 min\")", DataKind.NUMBER, now)
                        .quality()
                        .isBad())
                .isTrue();
    }

    @Test
    void anInputThatIsBadHasAnotherValueInItsPlaceAndSpoilsNothing() throws FormulaProblem {
        input("spare", 7.0);
        InputHistory level = new InputHistory(Duration.ZERO);
        inputs.put("level", level);
        assertThat(at("otherwise(level, spare) * 2", DataKind.NUMBER, T0).value())
                .contains(14.0);
        level.take(TagValue.good(3.0, T0), T0);
        assertThat(at("otherwise(level, spare) * 2", DataKind.NUMBER, T0).value())
                .contains(6.0);
        level.take(bad(T0), T0);
        TagValue instead = at("otherwise(level, 0)", DataKind.NUMBER, T0);
        assertThat(instead.value()).contains(0.0);
        assertThat(instead.quality()).isEqualTo(Quality.GOOD);
        assertThat(Formula.read("otherwise(a, 0)", Set.of("a")).timed()).isFalse();
        assertThat(Formula.read("weighted(a, \"1 min\")", Set.of("a")).timed()).isTrue();
    }

    @Test
    void windowsPreviousValueAndTimeSinceChange() throws FormulaProblem {
        InputHistory flow = new InputHistory(Duration.ofMinutes(10));
        inputs.put("flow", flow);
        for (int i = 0; i < 12; i++) { // one a minute: 0, 10, ... 110
            flow.take(TagValue.good(i * 10.0, T0.plusSeconds(60L * i)), T0.plusSeconds(60L * i));
        }
        Instant now = T0.plusSeconds(11 * 60);
        assertThat(at("count(flow, \"5 min\")", DataKind.INTEGER, now).value()).contains(6L); // minutes 6 to 11
        assertThat(at("total(flow, \"5 min\")", DataKind.NUMBER, now).value()).contains(510.0); // 60+70+80+90+100+110
        assertThat(at("mean(flow, \"5 min\")", DataKind.NUMBER, now).value()).contains(85.0);
        assertThat(at("flow - prev(flow)", DataKind.NUMBER, now).value()).contains(10.0);
        assertThat(at("since(flow)", DataKind.NUMBER, now.plusSeconds(90)).value())
                .contains(90.0);
        assertThat(Formula.read("mean(flow, \"5 min\") + prev(flow)", Set.of("flow"))
                        .longestWindow())
                .isEqualTo(Duration.ofMinutes(5));
        assertThat(Formula.read("flow * 2", Set.of("flow")).timed()).isFalse();
        assertThat(Formula.read("since(flow)", Set.of("flow")).timed()).isTrue();
    }

    @Test
    void qualityFollowsFromTheInputsReallyUsed() throws FormulaProblem {
        input("a", 1.0).input("b", 2.0).input("c", 3.0);
        inputs.get("b")
                .take(
                        new TagValue(
                                Optional.of(2.0),
                                new Quality(Quality.Grade.UNCERTAIN, 0x40930000L, "sensor not accurate"),
                                T0,
                                T0),
                        T0);
        inputs.get("c").take(new TagValue(Optional.empty(), Quality.AWAY, T0, T0), T0);
        assertThat(at("a + b", DataKind.NUMBER, T0).quality()).satisfies(quality -> {
            assertThat(quality.grade()).isEqualTo(Quality.Grade.UNCERTAIN);
            assertThat(quality.words()).contains("input b").contains("sensor not accurate");
        });
        assertThat(at("a + c", DataKind.NUMBER, T0)).satisfies(value -> {
            assertThat(value.value()).isEmpty();
            assertThat(value.quality().words()).contains("input c").contains("no communication");
            assertThat(value.quality().code()).isEqualTo(Quality.AWAY.code());
        });
        assertThat(at("if(a > 0, a, c)", DataKind.NUMBER, T0).quality()).isEqualTo(Quality.GOOD);
        assertThat(at("if(good(c), c, a)", DataKind.NUMBER, T0).quality()).isEqualTo(Quality.GOOD);
    }

    @Test
    void whatIsNoFiniteNumberIsBadAndSaysWhy() throws FormulaProblem {
        input("a", 1.0).input("z", 0.0);
        TagValue result = at("a / z", DataKind.NUMBER, T0);
        assertThat(result.value()).isEmpty();
        assertThat(result.quality().words()).containsIgnoringCase("division by zero");
        assertThat(at("sqrt(z - a)", DataKind.NUMBER, T0).quality().isBad()).isTrue();
        assertThat(at("a + \"x\" > 3", DataKind.BOOLEAN, T0).quality().isBad()).isFalse(); // texts compare as texts
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "a + nope | 4 | 8 | no input named nope",
                "a + | 2 | 3 | missing",
                "(a + 1 | 0 | 1 | not closed",
                "fly(a) | 0 | 3 | no function named",
                "a b | 0 | 3 | operator",
                "mean(a + 1, \"5 min\") | 7 | 8 | name of one",
                "mean(a, \"soon\") | 8 | 12 | number and a unit",
                "mean(a, 5) | 8 | 9 | quotation marks",
                "convert(a, \"kW\", \"kg\") | 17 | 19 | does not turn",
                "round(a) | 0 | 5 | Too few",
                "mean(a, \"48 h\") | 8 | 12 | 24 h"
            })
    void troubleIsShownAtItsPlace(String text, int from, int to, String words) {
        FormulaProblem problem = catchThrowableOfType(FormulaProblem.class, () -> Formula.read(text, Set.of("a")));
        assertThat(problem).isNotNull();
        assertThat(problem.getMessage()).containsIgnoringCase(words);
        assertThat(problem.from())
                .as("from of %s: %s", text, problem.getMessage())
                .isEqualTo(from);
        assertThat(problem.to()).isBetween(from, text.length());
    }
}
