package dachshund.web.tls;

import org.springframework.boot.context.properties.ConfigurationProperties;

/**
 * TLS for the pages; without a certificate they are served in clear.
 *
 * @param certificate a PEM file with the certificate and those it was signed by, or a PKCS#12 file; empty for none
 * @param key         a PEM file with the private key, or a file with the password of the PKCS#12 file
 */
@ConfigurationProperties("dachshund.pages")
public record PagesSettings(String certificate, String key) {

    public boolean overTls() {
        return !certificate.isBlank();
    }
}
