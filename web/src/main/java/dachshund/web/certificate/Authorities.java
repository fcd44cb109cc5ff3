package dachshund.web.certificate;

import dachshund.core.definition.Definition;
import dachshund.core.source.LinkTest;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.web.setting.SettingsForm;
import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.security.cert.Certificate;
import java.security.cert.CertificateException;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** The authorities that people pasted into sources and destinations, each with whose servers it speaks for. */
@Component
public class Authorities {

    private static final String SETTING = "authority";

    private final Definitions definitions;
    private final Audit audit;

    /** One authority of one thing. */
    public record Authority(Definition of, String subject, String fingerprint, Instant from, Instant until) {}

    /** A certificate that a server showed and that nobody here believes yet: what a person compares before accepting it. */
    public record Unknown(String pem, String subject, String issuer, String fingerprint, Instant from, Instant until) {}

    Authorities(Definitions definitions, Audit audit) {
        this.definitions = definitions;
        this.audit = audit;
    }

    /** What a test found that a person may accept; empty where that is not its trouble. */
    public static Optional<Unknown> unknown(LinkTest test) {
        return read(test.shown()).stream()
                .findFirst()
                .map(each -> new Unknown(
                        test.shown(),
                        each.getSubjectX500Principal().getName(),
                        each.getIssuerX500Principal().getName(),
                        OpcUaTrust.fingerprint(each),
                        each.getNotBefore().toInstant(),
                        each.getNotAfter().toInstant()));
    }

    /** Notes that a person accepted what a server shows, if that is what they sent with a form. */
    public void noteAccepted(Map<String, String> form, String thing, String by) {
        for (X509Certificate each : read(form.getOrDefault(SettingsForm.ACCEPT + SETTING, ""))) {
            audit.note(
                    by,
                    "accepted a certificate",
                    thing + ": " + each.getSubjectX500Principal().getName() + ", SHA-256 "
                            + OpcUaTrust.fingerprint(each));
        }
    }

    /** As they are drafted; what cannot be read is left out, since its thing says so. */
    public List<Authority> all() {
        List<Authority> all = new ArrayList<>();
        for (Definition each : definitions.drafted()) {
            for (X509Certificate certificate : read(each.settings().getOrDefault(SETTING, ""))) {
                all.add(new Authority(
                        each,
                        certificate.getSubjectX500Principal().getName(),
                        OpcUaTrust.fingerprint(certificate),
                        certificate.getNotBefore().toInstant(),
                        certificate.getNotAfter().toInstant()));
            }
        }
        return all;
    }

    private static List<X509Certificate> read(String pem) {
        if (pem.isBlank()) {
            return List.of();
        }
        try {
            List<X509Certificate> read = new ArrayList<>();
            for (Certificate each : CertificateFactory.getInstance("X.509")
                    .generateCertificates(new ByteArrayInputStream(pem.getBytes(StandardCharsets.UTF_8)))) {
                read.add((X509Certificate) each);
            }
            return read;
        } catch (CertificateException unread) {
            return List.of();
        }
    }
}
