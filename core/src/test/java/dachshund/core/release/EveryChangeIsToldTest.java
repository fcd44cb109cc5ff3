package dachshund.core.release;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.BooleanNode;
import com.fasterxml.jackson.databind.node.DoubleNode;
import com.fasterxml.jackson.databind.node.IntNode;
import com.fasterxml.jackson.databind.node.NullNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.fasterxml.jackson.databind.node.TextNode;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.ShiftCalendarDefinition;
import dachshund.core.shift.Holiday;
import dachshund.core.shift.Shift;
import dachshund.core.shift.ShiftCalendar;
import java.io.IOException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * Whoever reviews a release reads sentences. So whatever is altered in a definition, anywhere in its document, has to
 * come out as one: a change that nobody is told of would go live unseen.
 */
class EveryChangeIsToldTest {

    private static final ObjectMapper JSON = new ObjectMapper();
    /** Tried in turn until the document is one that can be read and differs. */
    private static final List<String> OTHER_TEXTS = List.of(
            "another",
            "00000099",
            "PT7S",
            "07:07:07",
            "2027-07-07",
            "TUESDAY",
            "0 7 * * *",
            "state = 7",
            "1.5",
            "ABSOLUTE",
            "NONE",
            "PERCENT",
            "SKIP",
            "MARK",
            "RUN_LATE",
            "RISING",
            "FALLING",
            "BOTH",
            "COLUMN_PER_TAG",
            "ROW_PER_TAG",
            "DOCUMENT",
            "DOUBLE",
            "TEXT",
            "BIGINT",
            "VALUE",
            "QUALITY",
            "QUALITY_CODE",
            "SOURCE_TIME",
            "WRITE_NULL",
            "LAST_GOOD",
            "AS_IS",
            "SKIP_ROW",
            "SET_ASIDE",
            "SITE",
            "SHIFT",
            "RECORD_TIME",
            "NUMBER",
            "BOOLEAN");

    /** One alteration of a document, by where it was made. */
    private record Altered(String where, JsonNode document) {}

    private static JsonNode golden(String name) throws IOException {
        return JSON.readTree(EveryChangeIsToldTest.class.getResourceAsStream("/golden/" + name));
    }

    private static Optional<Definition> read(JsonNode document) {
        try {
            return Optional.of(DefinitionCodec.read(document.toString()));
        } catch (IllegalArgumentException notOne) {
            return Optional.empty();
        }
    }

    /** Every value of the document replaced by others, and every entry of a list or map left out, one at a time. */
    private static List<Altered> alterations(ObjectNode document) {
        List<Altered> all = new ArrayList<>();
        alter(document, document, "", all);
        return all;
    }

    private static void alter(ObjectNode whole, JsonNode at, String path, List<Altered> all) {
        if (at instanceof ObjectNode object) {
            for (Map.Entry<String, JsonNode> field : List.copyOf(object.properties())) {
                String where = path + "/" + field.getKey();
                JsonNode was = field.getValue();
                if (where.equals("/id")
                        || where.equals("/schemaVersion")
                        || field.getKey().equals("is")) {
                    continue;
                }
                for (JsonNode other : others(was)) {
                    object.set(field.getKey(), other);
                    all.add(new Altered(where + " = " + other, whole.deepCopy()));
                }
                object.set(field.getKey(), was);
                alter(whole, was, where, all);
            }
        } else if (at instanceof ArrayNode array) {
            for (int i = 0; i < array.size(); i++) {
                String where = path + "/" + i;
                JsonNode was = array.remove(i);
                all.add(new Altered(where + " left out", whole.deepCopy()));
                array.insert(i, was);
                for (JsonNode other : others(was)) {
                    array.set(i, other);
                    all.add(new Altered(where + " = " + other, whole.deepCopy()));
                }
                array.set(i, was);
                alter(whole, was, where, all);
            }
        }
    }

    private static List<JsonNode> others(JsonNode was) {
        if (was.isBoolean()) {
            return List.of(BooleanNode.valueOf(!was.booleanValue()));
        }
        if (was.isInt()) {
            return List.of(IntNode.valueOf(was.intValue() + 1));
        }
        if (was.isNumber()) {
            return List.of(DoubleNode.valueOf(was.doubleValue() + 0.5));
        }
        if (was.isTextual()) {
            return OTHER_TEXTS.stream()
                    .filter(other -> !other.equals(was.textValue()))
                    .<JsonNode>map(TextNode::valueOf)
                    .toList();
        }
        return was.isNull()
                ? List.of(IntNode.valueOf(3), TextNode.valueOf("00000002"))
                : was.isObject() ? List.of(NullNode.instance) : List.of();
    }

    /** Has no effect in the shape that the document has. */
    private static boolean idle(ObjectNode document, Altered altered) {
        return altered.where().startsWith("/layout/changedLinesOnly")
                && !document.at("/layout/shape").asText().equals("ROW_PER_TAG");
    }

    @Test
    void whateverIsAlteredInTheShiftCalendarIsASentence() throws IOException {
        ShiftCalendar calendar = new ShiftCalendar(
                List.of(
                        new Shift(
                                "Early",
                                LocalTime.of(6, 0),
                                LocalTime.of(14, 0),
                                Set.of(DayOfWeek.MONDAY, DayOfWeek.TUESDAY)),
                        new Shift("Night", LocalTime.of(22, 0), LocalTime.of(6, 0), Set.of(DayOfWeek.values()))),
                List.of(new Holiday(LocalDate.of(2026, 12, 25), "Christmas Day")),
                true);
        told((ObjectNode) JSON.readTree(DefinitionCodec.write(ShiftCalendarDefinition.of(calendar))));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "recorder-full-2.json",
                "recorder-2.json",
                "recorder-confirms-2.json",
                "source-2.json",
                "destination-2.json",
                "equipment-2.json",
                "equipment_class-2.json",
                "keeping_rule-2.json"
            })
    void whateverIsAlteredIsASentence(String name) throws IOException {
        told((ObjectNode) golden(name));
    }

    private static void told(ObjectNode document) {
        Definition before = DefinitionCodec.read(document.toString());
        Set<String> silent = new LinkedHashSet<>();
        int told = 0;
        for (Altered altered : alterations(document.deepCopy())) {
            Definition after = read(altered.document()).orElse(before);
            if (after.equals(before) || idle(document, altered)) {
                continue;
            }
            List<Difference> differences = Differences.between(List.of(before), List.of(after));
            boolean said = differences.stream()
                    .flatMap(each -> each.sentences().stream())
                    .anyMatch(sentence -> !sentence.isBlank());
            if (said) {
                told++;
            } else {
                silent.add(altered.where());
            }
        }
        assertThat(silent).as("altered, and nobody was told").isEmpty();
        assertThat(told).as("alterations that could be read").isGreaterThan(5);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "recorder-full-2.json",
                "source-2.json",
                "destination-2.json",
                "equipment-2.json",
                "equipment_class-2.json",
                "keeping_rule-2.json"
            })
    void aDocumentThatIsCutOffOrAlteredIsRefusedWithASentence(String name) throws IOException {
        String text = golden(name).toString();
        Stream.iterate(0, at -> at < text.length(), at -> at + 1).forEach(at -> {
            assertThatThrownBy(() -> DefinitionCodec.read(text.substring(0, at)))
                    .as("cut at %d", at)
                    .isInstanceOf(IllegalArgumentException.class);
            for (String broken : List.of(
                    text.substring(0, at),
                    text.substring(0, at) + "\u0000" + text.substring(at + 1),
                    text.substring(0, at) + "9" + text.substring(at + 1))) {
                try {
                    DefinitionCodec.read(broken);
                } catch (IllegalArgumentException refused) {
                    assertThat(refused.getMessage()).isNotBlank().doesNotContain("java.", "dachshund.core");
                }
            }
        });
    }
}
