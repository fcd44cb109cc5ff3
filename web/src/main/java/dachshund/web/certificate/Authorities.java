package dachshund.web.certificate;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.web.definition.Definitions;
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
import org.springframework.stereotype.Component;

/** The authorities that people pasted into sources and destinations, each with whose servers it speaks for. */
@Component
public class Authorities {

    private static final String SETTING = "authority";

    private final Definitions definitions;

    /** One authority of one thing. */
    public record Authority(
            Definition.Kind kind,
            String id,
            String name,
            String subject,
            String fingerprint,
            Instant from,
            Instant until) {}

    Authorities(Definitions definitions) {
        this.definitions = definitions;
    }

    /** As they are drafted; what cannot be read is left out, since its thing says so. */
    public List<Authority> all() {
        List<Authority> all = new ArrayList<>();
        for (Definition each : definitions.drafted()) {
            Map<String, String> settings = each instanceof SourceDefinition source
                    ? source.settings()
                    : each instanceof DestinationDefinition destination ? destination.settings() : Map.of();
            for (X509Certificate certificate : read(settings.getOrDefault(SETTING, ""))) {
                all.add(new Authority(
                        each.kind(),
                        each.id(),
                        each.name(),
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
