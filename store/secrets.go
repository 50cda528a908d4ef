package store

import (
	"bytes"
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/hkdf"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// KeyName is the file of the key that seals secrets, in the data folder. It is in no backup.
const KeyName = "kaiku.key"

// ErrKey says that a secret cannot be opened with the key of this data folder.
var ErrKey = errors.New("the key of this data folder cannot open it")

// sealed is a secret's body. Records name it by its id; rotating a secret makes another.
type sealed struct {
	ID        string `gorm:"primaryKey"`
	Body      []byte
	CreatedAt string
}

// TableName names the table.
func (sealed) TableName() string { return "sealed" }

// sealingKey is what the key of a data folder is used for.
type sealingKey struct {
	cipher.AEAD
	mac []byte // for hashes that must not be guessed from a backup
}

// loadKey reads the sealing key of the folder, or makes one.
func loadKey(dir string) (*sealingKey, error) {
	file := filepath.Join(dir, KeyName)
	key, err := os.ReadFile(file)
	if errors.Is(err, fs.ErrNotExist) {
		key = make([]byte, 32)
		if _, err := rand.Read(key); err != nil {
			return nil, err
		}
		if err := writeDurably(file, bytes.NewReader(key)); err != nil {
			return nil, fmt.Errorf("save the key: %w", err)
		}
	} else if err != nil {
		return nil, fmt.Errorf("read the key: %w", err)
	}
	if len(key) != 32 {
		return nil, fmt.Errorf("%s is not a key: it has %d bytes instead of 32", file, len(key))
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	aead, err := cipher.NewGCM(block)
	if err != nil {
		return nil, err
	}
	mac, err := hkdf.Key(sha256.New, key, nil, "hashes of requests", sha256.Size)
	return &sealingKey{aead, mac}, err
}

// keyed is the form in which the hash of a request is kept (HMAC, RFC 2104, with a key derived by RFC 5869): what is
// short in a request, such as a PIN, cannot be found from it without the key, which is in no backup.
func (s *Store) keyed(hash string) string {
	mac := hmac.New(sha256.New, s.key.mac)
	mac.Write([]byte(hash))
	return hex.EncodeToString(mac.Sum(nil))
}

// SealFor seals a few bytes with the key of this data folder for one purpose (AES-256-GCM, NIST SP 800-38D): they
// can be opened for no other.
func (s *Store) SealFor(purpose string, body []byte) ([]byte, error) {
	nonce := make([]byte, s.key.NonceSize())
	if _, err := rand.Read(nonce); err != nil {
		return nil, err
	}
	return s.key.Seal(nonce, nonce, body, []byte(purpose)), nil
}

// OpenFor opens what SealFor has sealed for that purpose. ErrKey: it was not sealed with this key, or not for it.
func (s *Store) OpenFor(purpose string, sealed []byte) ([]byte, error) {
	n := s.key.NonceSize()
	if len(sealed) < n {
		return nil, ErrKey
	}
	body, err := s.key.Open(nil, sealed[:n], sealed[n:], []byte(purpose))
	if err != nil {
		return nil, ErrKey
	}
	return body, nil
}

// Seal keeps a body under a new id, bound to that id. It is written before the record that names it.
func (s *Store) Seal(ctx context.Context, id string, body []byte) error {
	made, err := s.SealFor(id, body)
	if err != nil {
		return err
	}
	row := sealed{ID: id, Body: made, CreatedAt: s.now().UTC().Format(timeLayout)}
	return asStoreError(s.writer.WithContext(ctx).Create(&row).Error)
}

// Unseal returns a sealed body. ErrNotFound: there is none; ErrKey: another key sealed it.
func (s *Store) Unseal(ctx context.Context, id string) ([]byte, error) {
	var row sealed
	if err := s.reader.WithContext(ctx).Where("id = ?", id).Take(&row).Error; err != nil {
		return nil, asStoreError(err)
	}
	return s.OpenFor(id, row.Body)
}

// SweepSealed removes sealed bodies that no secret names, once they are a day old, and returns how many.
func (s *Store) SweepSealed(ctx context.Context) (int, error) {
	r := s.writer.WithContext(ctx).Where("id NOT IN (SELECT sealed_as FROM secrets) AND created_at < ?",
		s.now().Add(-orphanAge).UTC().Format(timeLayout)).Delete(&sealed{})
	return int(r.RowsAffected), r.Error
}
