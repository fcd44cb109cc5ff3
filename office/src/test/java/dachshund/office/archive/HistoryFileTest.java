package dachshund.office.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.work.Progress;
import dachshund.office.archive.HistoryFile.Known;
import dachshund.office.archive.HistoryFile.Result;
import dachshund.office.archive.HistoryImport.Unreadable;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** History from files as people have them. */
class HistoryFileTest {

    private static final Instant NOW = Instant.parse("2026-11-27T12:00:00Z");
    private static final Map<String, DataKind> TAGS = Map.of(
            "T1",
            DataKind.NUMBER,
            "Count",
            DataKind.INTEGER,
            "Run",
            DataKind.BOOLEAN,
            "Lot",
            DataKind.TEXT,
            "Big",
            DataKind.UNSIGNED);

    @TempDir
    Path folder;

    private final List<String> taken = new ArrayList<>();
    private Result result;

    private void read(String text) throws Exception {
        read(text, StandardCharsets.UTF_8);
    }

    private void read(String text, Charset letters) throws Exception {
        Path file = folder.resolve("h.csv");
        Files.write(file, text.getBytes(letters));
        taken.clear();
        result = HistoryFile.read(
                file,
                name -> Optional.ofNullable(TAGS.get(name))
                        .map(kind -> new Known(
                                new TagRef("50000001", name),
                                name,
                                new TagInfo(name, "", name, kind, "", "", false),
                                new KeptFor(name.equals("Lot") ? 30 : 0, 0))),
                ZoneId.of("Europe/London"),
                NOW,
                (tag, values) -> taken.addAll(words(tag, values)),
                Progress.UNHEARD);
    }

    private static List<String> words(Known tag, Series values) {
        List<String> all = new ArrayList<>();
        for (int i = 0; i < values.size(); i++) {
            all.add(tag.name() + " " + OpcUaTime.toInstant(values.time(i)) + " "
                    + values.value(i).map(Object::toString).orElse("none")
                    + (Marks.quality(values.mark(i)).isGood()
                            ? ""
                            : " "
                                    + Long.toHexString(
                                            Marks.quality(values.mark(i)).code())));
        }
        return all;
    }

    @Test
    void aLineAValueInAnyOrderOfColumnsAndTimes() throws Exception {
        read(
                """
                quality,Time,Tag,Value
                ,2026-11-27T06:00:02Z,T1,2.5
                good,2026-11-27T06:00:01.1234567Z,T1,1.5
                uncertain,2026-11-27T07:00:03+01:00,T1,3
                bad,2026-11-27T06:00:04Z,T1,
                0x808A0000,2026-11-27T06:00:05Z,T1,9
                good,2026-11-27T06:00:06Z,Count,9007199254740993
                good,2026-11-27T06:00:06Z,Big,18446744073709551615
                good,2026-11-27T06:00:06Z,Run,Yes
                good,2026-11-27T06:00:06Z,Lot,"a, ""b\"""
                """);
        assertThat(taken)
                .containsExactly(
                        "T1 2026-11-27T06:00:01.123456700Z 1.5",
                        "T1 2026-11-27T06:00:02Z 2.5",
                        "T1 2026-11-27T06:00:03Z 3.0 40000000",
                        "T1 2026-11-27T06:00:04Z none 80000000",
                        "T1 2026-11-27T06:00:05Z 9.0 808a0000",
                        "Count 2026-11-27T06:00:06Z 9007199254740993",
                        "Big 2026-11-27T06:00:06Z 18446744073709551615",
                        "Run 2026-11-27T06:00:06Z true",
                        "Lot 2026-11-27T06:00:06Z a, \"b\"");
        assertThat(result.refused()).isZero();
        assertThat(result.times()).contains("offset");
    }

    @Test
    void aColumnATagWithSemicolonsDecimalCommasAndAByteOrderMark() throws Exception {
        read("\uFEFFtime;T1;Other;Run\n2026-07-01 06:00;1,5;7;1\n2026-07-01 06:00:30,5;;7;bad\n");
        assertThat(taken)
                .containsExactly(
                        "T1 2026-07-01T05:00:00Z 1.5",
                        "Run 2026-07-01T05:00:00Z true",
                        "Run 2026-07-01T05:00:30.500Z none 80000000");
        assertThat(result.unknown()).containsExactly("Other");
        assertThat(result.times()).isEqualTo("in plant time");
    }

    @ParameterizedTest
    @CsvSource({
        "1795759200, 2026-11-27T06:00:00Z",
        "1795759200.5, 2026-11-27T06:00:00.500Z",
        "1795759200123, 2026-11-27T06:00:00.123Z",
        "2026-11-27 06:00, 2026-11-27T06:00:00Z",
        "2026-11-27T06:00:00.25+0100, 2026-11-27T05:00:00.250Z"
    })
    void timesAsTheyAreWritten(String written, String instant) throws Exception {
        read("tag,time,value\nT1," + written + ",1\n");
        assertThat(taken).containsExactly("T1 " + instant + " 1.0");
    }

    @Test
    void aFileHasOneWayToWriteTimesAndTheOthersAreToldByTheirLines() throws Exception {
        read(
                """
                tag,time,value
                T1,2026-11-27 06:00:00,1
                T1,2026-11-27T06:00:01Z,2
                T1,1795759200,3
                T1,27/11/2026 06:00,4
                T1,2026-02-30 06:00:00,5
                T1,2026-11-27 06:00:05,6
                """);
        assertThat(taken).hasSize(2);
        assertThat(result.refused()).isEqualTo(4);
        assertThat(result.refusals().get(0)).startsWith("Line 3:").contains("in plant time");
        assertThat(result.refusals().get(2)).startsWith("Line 5:").contains("no time that is understood");
        assertThat(result.refusals().get(3)).startsWith("Line 6:").contains("no time");
    }

    /** London's changeovers of 2026 are in the tz database: 29 March and 25 October. */
    @Test
    void anHourThatDidNotExistOrWasThereTwiceIsNobodysGuess() throws Exception {
        read("tag,time,value\nT1,2026-03-29 01:30:00,1\nT1,2026-10-25 01:30:00,2\nT1,2026-10-25 02:30:00,3\n");
        assertThat(taken).containsExactly("T1 2026-10-25T02:30:00Z 3.0");
        assertThat(result.refusals().get(0)).contains("did not exist");
        assertThat(result.refusals().get(1)).contains("was there twice");
    }

    @Test
    void whatCannotBeIsLeftOutWithASentence() throws Exception {
        read(
                """
                tag,time,value,quality
                T1,2026-11-27T06:00:00Z,warm,
                Count,2026-11-27T06:00:00Z,1.5,
                Run,2026-11-27T06:00:00Z,maybe,
                T1,2026-11-27T06:00:00Z,NaN,
                T1,2026-11-27T06:00:00Z,1,fine
                T1,2026-12-27T06:00:00Z,1,
                T1,1826-11-27T06:00:00Z,1,
                Lot,2026-01-01T06:00:00Z,x,
                T1,2026-11-27T06:00:00Z,1,0xZZ
                T1,2026-11-27T06:00:09Z,7,
                """);
        assertThat(taken).containsExactly("T1 2026-11-27T06:00:09Z 7.0");
        assertThat(result.refused()).isEqualTo(9);
        assertThat(String.join("\n", result.refusals()))
                .contains("\"warm\" is no number", "\"1.5\" is no whole number", "\"maybe\" is no yes/no")
                .contains(
                        "\"fine\" is no quality",
                        "in the future",
                        "before 1970",
                        "older than its rule",
                        "no status code");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "\n",
                "a,b\n1,2\n",
                "tag,time,value\nT1,yesterday,1\n",
                "time,T1\n27.11.2026,1\n",
                "tag,time,value\n\"T1,1,2\n"
            })
    void whatIsNoSuchFileIsASentence(String text) throws Exception {
        try {
            read(text);
            assertThat(taken).isEmpty();
        } catch (Unreadable told) {
            assertThat(told.getMessage()).endsWith(".");
        }
    }

    @Test
    void aFileInOtherLettersIsToldToBeSavedAsUtf8() {
        assertThatThrownBy(() -> read(
                        "tag,time,value\nT1,2026-11-27T06:00:00Z,1\nOven \u00e4,2026-11-27T06:00:00Z,1\n",
                        StandardCharsets.ISO_8859_1))
                .isInstanceOf(Unreadable.class)
                .hasMessageContaining("UTF-8");
    }

    @Test
    void manyValuesAreHandedOnInParts() throws Exception {
        StringBuilder text = new StringBuilder("time,T1,Count\n");
        for (int i = 0; i < 300_000; i++) {
            text.append(1_795_000_000L + i)
                    .append(',')
                    .append(i)
                    .append(".5,")
                    .append(i)
                    .append('\n');
        }
        read(text.toString());
        assertThat(taken).hasSize(600_000);
        assertThat(result.lines()).isEqualTo(300_000);
    }
}
