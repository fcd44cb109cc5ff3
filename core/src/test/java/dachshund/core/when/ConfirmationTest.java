package dachshund.core.when;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import dachshund.core.lineup.LineEdits;
import dachshund.core.lineup.LineUp;
import dachshund.core.lineup.RecorderLines;
import dachshund.core.release.WhenCheck;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** What a recorder tells the plant, as it is designed, kept, and refused. */
class ConfirmationTest {

    private static final RecorderLines LINES = new RecorderLines();

    private static TagRef tag(String name) {
        return new TagRef("00000001", name);
    }

    private static final When.OnRequest REQUEST =
            new When.OnRequest(tag("BG1/index"), Optional.empty(), Optional.of(tag("BG1/confirmed")));

    private static final RecorderDefinition PALLETS = new RecorderDefinition(
                    "00000003",
                    "Pallet records",
                    "",
                    List.of(REQUEST),
                    Layout.proposed(),
                    List.of(new Where("00000002", "pallet_record", new Upkeep(true, true), false)))
            .withConfirms(Optional.of(new Confirmation(
                    Confirmation.Of.LANDED,
                    Optional.of(tag("BG1/code")),
                    Optional.of(tag("BG1/why")),
                    1,
                    3,
                    Duration.ofMillis(200))));

    private static List<String> problems(RecorderDefinition recorder) {
        return WhenCheck.unconfirmed(
                recorder,
                tag -> tag.isGap() || tag.address().endsWith("gone")
                        ? Optional.empty()
                        : Optional.of(new TagInfo(
                                tag.address(),
                                "BG1",
                                tag.address(),
                                tag.address().endsWith("bit") ? DataKind.BOOLEAN : DataKind.INTEGER,
                                "",
                                "",
                                !tag.address().endsWith("read only"))));
    }

    @Test
    void itIsKeptAsItWasDesigned() throws Exception {
        String document = DefinitionCodec.write(PALLETS);
        assertThat(DefinitionCodec.read(document)).isEqualTo(PALLETS);
        ObjectMapper json = new ObjectMapper();
        assertThat(json.readTree(document))
                .isEqualTo(json.readTree(getClass().getResourceAsStream("/golden/recorder-confirms-2.json")));
        assertThat(DefinitionCodec.write(PALLETS.withConfirms(Optional.empty())))
                .doesNotContain("confirms");
    }

    @Test
    void whatCannotBeToldIsSaid() {
        assertThat(problems(PALLETS)).isEmpty();
        assertThat(problems(PALLETS.withConfirms(Optional.empty()).withWhens(List.of())))
                .isEmpty();
        assertThat(problems(PALLETS.withWhens(List.of(new When.Every(Duration.ofSeconds(1))))))
                .singleElement()
                .asString()
                .contains("on a request with a number");
        assertThat(problems(PALLETS.withWhens(List.of(REQUEST, new When.Every(Duration.ofSeconds(1))))))
                .singleElement()
                .asString()
                .contains("stands alone");
        assertThat(problems(PALLETS.withWhens(
                        List.of(new When.OnRequest(REQUEST.number(), Optional.empty(), Optional.empty())))))
                .singleElement()
                .asString()
                .contains("which tag gets the number");
        Confirmation confirms = PALLETS.confirms().orElseThrow();
        assertThat(problems(PALLETS.withConfirms(Optional.of(confirms.withCode(Optional.of(tag("read only")))))))
                .singleElement()
                .asString()
                .contains("read only cannot be written");
        assertThat(problems(PALLETS.withConfirms(Optional.of(confirms.withText(Optional.of(tag("gone")))))))
                .singleElement()
                .asString()
                .contains("not among the tags");
        assertThat(problems(PALLETS.withWheres(List.of(new Where(
                        "00000002",
                        "t",
                        Upkeep.NONE,
                        false,
                        new dachshund.core.destination.WriteMode.Insert(),
                        "",
                        "",
                        "{lot}")))))
                .singleElement()
                .asString()
                .contains("name their destination");
        Confirmation bit = confirms.withCode(Optional.of(tag("bit")));
        assertThat(problems(PALLETS.withConfirms(Optional.of(bit))))
                .singleElement()
                .asString()
                .contains("let the codes be 1 and 0");
        assertThat(problems(PALLETS.withConfirms(Optional.of(bit.withCodes(1, 0)))))
                .isEmpty();
        assertThatThrownBy(() -> confirms.withSettle(Duration.ofMinutes(2))).hasMessageContaining("60 s");
    }

    /** A line of another machine confirms to that machine, and never to the original's. */
    @Test
    void aLineConfirmsToItsOwnMachine() {
        Follows<RecorderDefinition.Made> follows = new Follows<>(
                PALLETS.id(),
                List.of("index", "confirmed", "code").stream()
                        .map(each -> new Follows.Swap(tag("BG1/" + each), tag("BG2/" + each)))
                        .toList(),
                Map.of(),
                Optional.empty());
        RecorderDefinition line =
                LINES.derived(PALLETS, PALLETS.withName("Pallet records 2").withFollows(Optional.of(follows)));
        LineEdits<RecorderDefinition, RecorderDefinition.Made> edited = new LineEdits<>(
                LINES,
                PALLETS,
                LINES.made(PALLETS, line).withConfirms(line.confirms().map(each -> each.with(Confirmation.Of.SAFE))));
        assertThat(edited.edits()).extracting(LineUp.Edit::part).containsExactly("confirms");
        assertThat(edited.brought(Set.of()).confirms().orElseThrow().of()).isEqualTo(Confirmation.Of.SAFE);
        assertThat(edited.brought(Set.of("confirms")).confirms()).isEqualTo(line.confirms());
        Confirmation confirms = line.confirms().orElseThrow();
        assertThat(confirms.code()).contains(tag("BG2/code"));
        assertThat(confirms.settle()).isEqualTo(Duration.ofMillis(200));
        assertThat(confirms.text().orElseThrow().isGap()).isTrue();
        assertThat(problems(line)).singleElement().asString().contains("no tag of this machine");
        assertThat(line.writes()).allMatch(tag -> tag.isGap() || tag.address().startsWith("BG2/"));
    }
}
