//! TLS with the shop's certificates on both sides.

use std::sync::Arc;

use rustls::crypto::CryptoProvider;
use rustls::crypto::ring::default_provider;
use rustls::pki_types::pem::PemObject as _;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use rustls::server::WebPkiClientVerifier;
use rustls::version::TLS13;
use rustls::{ClientConfig, RootCertStore, ServerConfig};

use crate::card::Card;
use crate::error::LinkError;
use crate::shop::Shop;

/// The name in the certificate of a counter.
pub(crate) const COUNTER: &str = "counter";

/// What the counter shows, and whom it takes.
///
/// # Errors
/// When no certificate can be made, or the shop's is none.
pub(crate) fn counter_side(shop: &Shop) -> Result<ServerConfig, LinkError> {
    let (certificate, key) = shop.counter_certificate()?;
    let provider = Arc::new(default_provider());
    let verifier =
        WebPkiClientVerifier::builder_with_provider(Arc::new(roots(shop.certificate())?), Arc::clone(&provider))
            .build()
            .map_err(|error| LinkError::Keys(error.to_string()))?;
    let mut config = ServerConfig::builder_with_provider(provider)
        .with_protocol_versions(&[&TLS13])?
        .with_client_cert_verifier(verifier)
        .with_single_cert(vec![certificate_in(&certificate)?], key_in(&key)?)?;
    // Nothing of an earlier connection opens a later one: a card that was taken back stays out.
    config.send_tls13_tickets = 0;
    Ok(config)
}

/// What a machine shows, and whom it takes.
///
/// # Errors
/// When the card holds no keys.
pub(crate) fn bench_side(card: &Card) -> Result<ClientConfig, LinkError> {
    let config = ClientConfig::builder_with_provider(Arc::new(default_provider()))
        .with_protocol_versions(&[&TLS13])?
        .with_root_certificates(roots(&card.shop_certificate)?)
        .with_client_auth_cert(vec![certificate_in(&card.certificate)?], key_in(&card.key)?)?;
    Ok(config)
}

/// Random bytes.
///
/// # Errors
/// When the system has none.
pub(crate) fn random() -> Result<[u8; 8], LinkError> {
    let provider: CryptoProvider = default_provider();
    let mut bytes = [0; 8];
    provider.secure_random.fill(&mut bytes).map_err(|_| LinkError::Keys("no random numbers".into()))?;
    Ok(bytes)
}

fn roots(pem: &str) -> Result<RootCertStore, LinkError> {
    let mut roots = RootCertStore::empty();
    roots.add(certificate_in(pem)?)?;
    Ok(roots)
}

fn certificate_in(pem: &str) -> Result<CertificateDer<'static>, LinkError> {
    CertificateDer::from_pem_slice(pem.as_bytes()).map_err(|error| LinkError::Keys(error.to_string()))
}

fn key_in(pem: &str) -> Result<PrivateKeyDer<'static>, LinkError> {
    PrivateKeyDer::from_pem_slice(pem.as_bytes()).map_err(|error| LinkError::Keys(error.to_string()))
}
