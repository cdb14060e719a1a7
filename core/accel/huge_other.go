//go:build !linux

package accel

func huge[T any]([]T) {}
