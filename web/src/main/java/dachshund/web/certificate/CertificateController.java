package dachshund.web.certificate;

import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.audit.Audit;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.tls.PagesTls;
import java.security.Principal;
import java.security.cert.CertificateEncodingException;
import java.time.Instant;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Certificates: ours for OPC UA and of the pages, those of servers that an administrator accepted, and authorities that people pasted. */
@Needs(Right.MANAGE_KEYS)
@Controller
@RequestMapping("/plant/certificates")
class CertificateController {

    private final OpcUaTrust trust;
    private final Audit audit;
    private final Authorities authorities;
    private final PagesTls tls;

    CertificateController(OpcUaTrust trust, Audit audit, Authorities authorities, PagesTls tls) {
        this.trust = trust;
        this.authorities = authorities;
        this.tls = tls;
        this.audit = audit;
    }

    @GetMapping
    String list(Model model) {
        try {
            model.addAttribute("own", trust.describeOwn());
        } catch (IllegalStateException cannot) {
            model.addAttribute("ownTrouble", cannot.getMessage());
        }
        model.addAttribute("seen", trust.seen());
        model.addAttribute("authorities", authorities.all());
        model.addAttribute("pagesUntil", tls.until().equals(Instant.MAX) ? null : tls.until());
        return "certificate/certificates";
    }

    @GetMapping("/own")
    ResponseEntity<byte[]> own() throws CertificateEncodingException {
        OpcUaTrust.Own own;
        try {
            own = trust.own();
        } catch (IllegalStateException cannot) {
            throw new IllegalArgumentException(cannot.getMessage(), cannot);
        }
        return ResponseEntity.ok()
                .contentType(MediaType.APPLICATION_OCTET_STREAM)
                .header("Content-Disposition", "attachment; filename=\"dachshund.der\"")
                .body(own.certificate().getEncoded());
    }

    @PostMapping("/trust")
    String trust(@RequestParam String fingerprint, @RequestParam boolean on, Principal by) {
        if (on) {
            trust.trust(fingerprint);
        } else {
            trust.distrust(fingerprint);
        }
        audit.note(
                by.getName(),
                on ? "accepted a certificate" : "no longer accepts a certificate",
                "SHA-256 " + fingerprint);
        return "redirect:/plant/certificates";
    }
}
