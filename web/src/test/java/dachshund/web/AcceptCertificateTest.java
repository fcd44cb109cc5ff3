package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.DestinationDefinition;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.nio.charset.StandardCharsets;
import java.security.KeyPair;
import java.security.cert.X509Certificate;
import java.util.Base64;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateBuilder;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateGenerator;
import org.junit.jupiter.api.Test;

/** A database whose certificate nobody here knows: a person sees it, compares it, accepts it, and finds it again. */
class AcceptCertificateTest {

    private static final Site SITE = Site.demo();

    private static String pem(String what, byte[] der) {
        return "-----BEGIN " + what + "-----\n"
                + Base64.getMimeEncoder(64, "\n".getBytes(StandardCharsets.US_ASCII))
                        .encodeToString(der)
                + "\n-----END " + what + "-----\n";
    }

    @Test
    void aCertificateThatAServerShowsIsComparedAcceptedAndListed() throws Exception {
        KeyPair keys = SelfSignedCertificateGenerator.generateRsaKeyPair(2048);
        X509Certificate certificate = new SelfSignedCertificateBuilder(keys)
                .setCommonName("Quality database")
                .setApplicationUri("urn:quality")
                .addIpAddress("127.0.0.1")
                .build();
        String fingerprint = OpcUaTrust.fingerprint(certificate);
        try (PrivatePostgreSql server = new PrivatePostgreSql(
                        pem("CERTIFICATE", certificate.getEncoded()),
                        pem("PRIVATE KEY", keys.getPrivate().getEncoded()));
                Actor actor = new Actor(SITE)) {
            actor.signIn("admin", "admin-demo");
            actor.go("/records/destinations/new?kind=postgresql");
            actor.fill("#f-name", "Over a certificate");
            actor.fill("#f-host", "127.0.0.1");
            actor.fill("#f-port", Integer.toString(server.port()));
            actor.fill("#f-database", "postgres");
            actor.fill("#f-user", "postgres");
            actor.choose("#f-tls", "on");
            actor.click("button[name=save]");
            actor.see("main", "is signed by no authority that is known here");
            actor.see("main", fingerprint);
            assertThat(SITE.bean(Definitions.class).all(DestinationDefinition.class))
                    .noneMatch(each -> each.name().equals("Over a certificate"));
            actor.click("#accept-certificate");
            actor.see("main", "answered");
            DestinationDefinition made = SITE.bean(Definitions.class).all(DestinationDefinition.class).stream()
                    .filter(each -> each.name().equals("Over a certificate"))
                    .findFirst()
                    .orElseThrow();
            try {
                assertThat(made.settings().get("authority")).contains("BEGIN CERTIFICATE");
                actor.go("/plant/certificates");
                actor.see("main", "Over a certificate");
                actor.see("main", fingerprint);
                assertThat(SITE.audit())
                        .anyMatch(entry -> entry.startsWith("admin: accepted a certificate: destination")
                                && entry.contains(fingerprint));
            } finally {
                SITE.bean(Drafts.class).remove(made.id(), "admin");
            }
        }
    }
}
