// Package scratch gives this program folders for temporary files, and removes those
// of programs that were killed. Who is alive holds a lock, which the system takes
// away from the dead: so several programs may share a disk.
package scratch

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"
)

// ErrFull says that there is no room for temporary files.
var ErrFull = fmt.Errorf("the disk for temporary files (%s) is full; make room there and do it again", os.TempDir())

// Full turns the system's error of a full disk into ErrFull.
func Full(err error) error {
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) {
		return ErrFull
	}
	return err
}

const (
	prefix = "proscen-run-"
	lock   = "lock"
)

// home is the folder of this program, made when it is first needed.
var home struct {
	sync.Mutex
	dir  string
	held *os.File
}

// Folder makes an empty folder. The caller removes it with os.RemoveAll.
func Folder(what string) (string, error) {
	root, err := root()
	if err != nil {
		return "", Full(err)
	}
	dir, err := os.MkdirTemp(root, what+"-*")
	return dir, Full(err)
}

// File makes an empty file. The caller closes and removes it.
func File(what string) (*os.File, error) {
	root, err := root()
	if err != nil {
		return nil, Full(err)
	}
	f, err := os.CreateTemp(root, what+"-*")
	return f, Full(err)
}

func root() (string, error) {
	home.Lock()
	defer home.Unlock()
	if home.dir != "" {
		if _, err := os.Stat(home.dir); err == nil {
			return home.dir, nil
		}
	}
	dir, f, err := held("", prefix, Hold)
	if err != nil {
		return "", err
	}
	if home.held != nil {
		_ = home.held.Close()
	}
	home.dir, home.held = dir, f
	return dir, nil
}

// held makes a folder in another one and holds it. It has another name until it is held:
// what has the name and is not held is abandoned.
func held(in, prefix string, hold func(*os.File) error) (dir string, f *os.File, err error) {
	made, err := os.MkdirTemp(in, young(prefix)+"*")
	if err != nil {
		return "", nil, err
	}
	f, err = os.Create(filepath.Join(made, lock))
	if err == nil {
		err = hold(f)
	}
	dir = filepath.Join(filepath.Dir(made), prefix+strings.TrimPrefix(filepath.Base(made), young(prefix)))
	if err == nil {
		err = os.Rename(made, dir)
	}
	if err != nil {
		_ = os.RemoveAll(made)
		return "", nil, err
	}
	return dir, f, nil
}

// young is how the names of folders begin that are not held yet.
func young(prefix string) string { return strings.Replace(prefix, "run", "new", 1) }

// Beside makes a folder for temporary files in another one, for what is moved to its place
// there, and removes those that programs have left there that were killed. The caller ends it.
func Beside(parent string) (dir string, end func(), err error) {
	const prefix = ".proscen-run-"
	_ = tidy(parent, prefix) // what is not ours to remove is in nobody's way
	dir, f, err := held(parent, prefix, func(f *os.File) error {
		err := Hold(f)
		if errors.Is(err, errors.ErrUnsupported) || errors.Is(err, syscall.ENOLCK) {
			return nil // a disk without locks: it is removed by nobody else
		}
		return err
	})
	if err != nil {
		return "", nil, err
	}
	return dir, func() {
		_ = os.RemoveAll(dir)
		_ = f.Close()
	}, nil
}

// End removes the folder of this program.
func End() {
	home.Lock()
	defer home.Unlock()
	if home.dir != "" {
		_ = os.RemoveAll(home.dir)
		_ = home.held.Close()
		home.dir, home.held = "", nil
	}
}

// Hold keeps others from taking a file for abandoned, for as long as it is open in
// a program that lives.
func Hold(f *os.File) error { return syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) }

// Abandoned calls remove for the files of a folder that nobody holds and that are
// older than young. A folder that is not there has none.
func Abandoned(folder string, young time.Duration, remove func(*os.File) error) error {
	entries, err := os.ReadDir(folder)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	var failed error
	for _, e := range entries {
		if info, err := e.Info(); err == nil && info.Mode().IsRegular() && time.Since(info.ModTime()) > young {
			failed = errors.Join(failed, unheld(filepath.Join(folder, e.Name()), remove))
		}
	}
	return failed
}

func unheld(name string, remove func(*os.File) error) error {
	f, err := os.Open(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	if Hold(f) != nil {
		return nil // somebody is at it
	}
	return remove(f)
}

// Tidy removes the folders of programs that were killed.
func Tidy() error { return tidy(os.TempDir(), prefix) }

func tidy(folder, prefix string) error {
	all, err := os.ReadDir(folder)
	if err != nil {
		return err
	}
	var failed error
	for _, e := range all {
		dir := filepath.Join(folder, e.Name())
		switch {
		case !e.IsDir():
		case strings.HasPrefix(e.Name(), prefix):
			failed = errors.Join(failed, unheld(filepath.Join(dir, lock), func(*os.File) error { return os.RemoveAll(dir) }))
		case strings.HasPrefix(e.Name(), young(prefix)):
			if info, err := e.Info(); err == nil && time.Since(info.ModTime()) > time.Minute {
				failed = errors.Join(failed, os.RemoveAll(dir))
			}
		}
	}
	return failed
}
