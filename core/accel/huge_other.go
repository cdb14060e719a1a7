//go:build !linux

package accel

func huge([]byte) {}
