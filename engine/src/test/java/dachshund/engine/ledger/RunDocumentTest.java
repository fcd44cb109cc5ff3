package dachshund.engine.ledger;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dachshund.core.ledger.Noted;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.transaction.StepRun;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** A document field by field is what a general mapper makes of the same run, and gives it back. */
final class RunDocumentTest {

    private static final Instant AT = Instant.parse("2026-11-29T01:02:03.123456789Z");

    private static Run run(Map<String, Run.Read> snapshot) {
        return new Run(
                "abc123-1-7",
                "cccc0001",
                "Lot \"ends\" ä \u0001",
                AT,
                AT.plusMillis(3),
                "request 7",
                "1/7",
                Outcome.DONE_BUT,
                -5,
                2,
                snapshot,
                List.of(
                        new StepRun(
                                "record",
                                StepRun.Fate.DONE,
                                "INSERT\nINTO t",
                                Map.of("lot", "\uD83D\uDC15\\", "→ ord_no", "1"),
                                -1,
                                12,
                                ""),
                        new StepRun("said", StepRun.Fate.NOT_REACHED, "", Map.of(), 0, 0, "x")),
                "because",
                Long.MAX_VALUE,
                "text",
                "given",
                Map.of("lot", "L-7", "request", "7"));
    }

    private static Run usual() {
        Map<String, Run.Read> snapshot = new HashMap<>();
        snapshot.put("lot", new Run.Read("L-7", AT, ""));
        snapshot.put("since", new Run.Read("nothing", null, "bad"));
        return run(snapshot);
    }

    @Test
    void itIsWhatAGeneralMapperMakes() throws Exception {
        ObjectMapper general = JsonMapper.builder()
                .addModule(new JavaTimeModule())
                .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
                .disable(com.fasterxml.jackson.databind.MapperFeature.AUTO_DETECT_IS_GETTERS)
                .build();
        assertThat(general.readTree(RunDocument.write(usual())))
                .isEqualTo(general.readTree(general.writeValueAsString(usual())));
        assertThat(RunDocument.read(RunDocument.write(usual()))).isEqualTo(usual());
    }

    @Test
    void whatItIsFoundByIsReadAlone() {
        Noted noted = RunDocument.noted(RunDocument.write(usual()));
        assertThat(noted).isEqualTo(RunDocument.noted(usual()));
        assertThat(noted.keys()).isEqualTo(Map.of("lot", "L-7", "request", "7"));
    }

    @Test
    void whatIsNoneIsRefused() {
        String whole = RunDocument.write(usual());
        for (int length = 0; length < whole.length(); length++) {
            String torn = whole.substring(0, length);
            assertThatThrownBy(() -> RunDocument.noted(torn))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageStartingWith("A run cannot be read back");
        }
        for (String none :
                List.of("[]", "7", "{}", whole.replace("DONE_BUT", "DONE_SO"), whole.replace("-5", "\"x\""))) {
            assertThatThrownBy(() -> RunDocument.noted(none)).isInstanceOf(IllegalArgumentException.class);
        }
    }
}
