package dachshund.web.certificate;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.audit.Audit;
import dachshund.web.tls.PagesTls;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.springframework.ui.ExtendedModelMap;

/** The page of certificates, where our own cannot be read: everything else of it is there. */
class CertificateControllerTest {

    private static final String SENTENCE = "Our own certificate cannot be read.";
    private static final OpcUaTrust.Seen SERVER =
            new OpcUaTrust.Seen("f", "s", "CN=server", "CN=server", Instant.EPOCH, Instant.MAX, true);

    private final OpcUaTrust trust = mock(OpcUaTrust.class);
    private final PagesTls tls = mock(PagesTls.class);
    private final CertificateController controller =
            new CertificateController(trust, mock(Audit.class), mock(Authorities.class), tls);

    @BeforeEach
    void damaged() {
        when(trust.own()).thenThrow(new IllegalStateException(SENTENCE));
        when(trust.describeOwn()).thenThrow(new IllegalStateException(SENTENCE));
        when(trust.seen()).thenReturn(List.of(SERVER));
        when(tls.until()).thenReturn(Instant.MAX);
    }

    @Test
    void thePageSaysSoAndShowsThoseOfServers() {
        ExtendedModelMap model = new ExtendedModelMap();
        assertThat(controller.list(model)).isEqualTo("certificate/certificates");
        assertThat(model).containsEntry("ownTrouble", SENTENCE).containsEntry("seen", List.of(SERVER));
        assertThat(model.get("own")).isNull();
    }

    @Test
    void itCannotBeDownloadedAndThatIsSaid() {
        assertThatThrownBy(controller::own)
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessage(SENTENCE);
    }
}
